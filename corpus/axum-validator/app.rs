//! The boat shed in axum, with serde and validator: rejections as the framework words them, and the validator's own errors.
use std::collections::{BTreeMap, BTreeSet};
use std::sync::{Arc, Mutex};

use axum::extract::{Json, Path, Query, State};
use axum::http::{HeaderMap, StatusCode};
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post};
use axum::Router;
use serde::{Deserialize, Serialize};
use validator::Validate;

#[derive(Clone, Serialize, Deserialize, PartialEq)]
#[serde(rename_all = "lowercase")]
enum Kind {
    Sail,
    Motor,
    Row,
}

#[derive(Clone, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Role {
    Skipper,
    Hand,
}

#[derive(Clone, Serialize, Deserialize, Validate)]
struct Owner {
    #[validate(email)]
    email: String,
    phone: Option<String>,
}

#[derive(Clone, Serialize, Deserialize, Validate)]
struct Sailor {
    #[validate(length(min = 1))]
    name: String,
    role: Role,
}

#[derive(Clone, Serialize, Deserialize, Validate)]
struct NewBoat {
    #[validate(length(min = 1, max = 40))]
    name: String,
    #[validate(range(min = 1.0, max = 60.0))]
    length_m: f64,
    kind: Kind,
    #[validate(nested)]
    owner: Owner,
    built: Option<String>,
    #[serde(default)]
    #[validate(nested)]
    crew: Vec<Sailor>,
}

#[derive(Clone, Serialize)]
struct Boat {
    id: i64,
    #[serde(flatten)]
    boat: NewBoat,
}

#[derive(Deserialize, Validate)]
struct Launch {
    #[validate(range(min = 1, max = 12))]
    tide: i64,
}

#[derive(Deserialize, Validate)]
struct List {
    #[validate(range(min = 1, max = 100))]
    limit: Option<u32>,
    kind: Option<Kind>,
}

#[derive(Default)]
struct Shed {
    boats: BTreeMap<i64, Boat>,
    launched: BTreeSet<i64>,
}

type Shared = State<Arc<Mutex<Shed>>>;

fn valid(input: &impl Validate) -> Result<(), Response> {
    input.validate().map_err(|errors| (StatusCode::UNPROCESSABLE_ENTITY, Json(errors)).into_response())
}

fn found(shed: &Shed, id: i64) -> Result<Boat, Response> {
    shed.boats.get(&id).cloned().ok_or_else(|| StatusCode::NOT_FOUND.into_response())
}

async fn list(State(shed): Shared, Query(asked): Query<List>) -> Result<Response, Response> {
    valid(&asked)?;
    let shed = shed.lock().unwrap();
    let kept = shed.boats.values().filter(|b| asked.kind.as_ref().is_none_or(|kind| b.boat.kind == *kind));
    let kept: Vec<Boat> = kept.take(asked.limit.unwrap_or(20) as usize).cloned().collect();
    Ok(Json(kept).into_response())
}

async fn add(State(shed): Shared, Json(boat): Json<NewBoat>) -> Result<Response, Response> {
    valid(&boat)?;
    let mut shed = shed.lock().unwrap();
    let id = shed.boats.keys().max().unwrap_or(&0) + 1;
    let boat = Boat { id, boat };
    shed.boats.insert(id, boat.clone());
    Ok((StatusCode::CREATED, [("Location", format!("/boats/{id}"))], Json(boat)).into_response())
}

async fn show(State(shed): Shared, Path(id): Path<i64>) -> Result<Response, Response> {
    Ok(Json(found(&shed.lock().unwrap(), id)?).into_response())
}

async fn replace(State(shed): Shared, Path(id): Path<i64>, Json(boat): Json<NewBoat>) -> Result<Response, Response> {
    let mut shed = shed.lock().unwrap();
    found(&shed, id)?;
    valid(&boat)?;
    let boat = Boat { id, boat };
    shed.boats.insert(id, boat.clone());
    Ok(Json(boat).into_response())
}

async fn remove(State(shed): Shared, Path(id): Path<i64>) -> Result<Response, Response> {
    let mut shed = shed.lock().unwrap();
    found(&shed, id)?;
    shed.boats.remove(&id);
    Ok(StatusCode::NO_CONTENT.into_response())
}

async fn launch(State(shed): Shared, Path(id): Path<i64>, Json(asked): Json<Launch>) -> Result<Response, Response> {
    let mut shed = shed.lock().unwrap();
    found(&shed, id)?;
    valid(&asked)?;
    if !shed.launched.insert(id) {
        return Err((StatusCode::CONFLICT, "the boat is launched already").into_response());
    }
    Ok(Json(serde_json::json!({ "id": id, "tide": asked.tide })).into_response())
}

async fn survey(State(shed): Shared, Path(id): Path<i64>) -> Result<Response, Response> {
    found(&shed.lock().unwrap(), id)?;
    let hull: Result<u32, String> = Err("hull of Plover was never measured".into());
    Ok(Json(serde_json::json!({ "id": id, "frames": hull.unwrap() })).into_response())
}

async fn logbook(headers: HeaderMap) -> Response {
    if headers.get("authorization").is_none_or(|sent| sent != "Bearer made-up-token") {
        return StatusCode::UNAUTHORIZED.into_response();
    }
    Json(serde_json::json!({ "entries": [] })).into_response()
}

#[tokio::main(flavor = "current_thread")]
async fn main() {
    std::panic::set_hook(Box::new(|_| {}));
    let mut shed = Shed::default();
    for (id, name) in (1..).zip(["Tern", "Heron", "Plover"]) {
        let owner = Owner { email: "mira@reedmarsh.example".into(), phone: None };
        let boat = NewBoat { name: name.into(), length_m: 7.5, kind: Kind::Sail, owner, built: None, crew: Vec::new() };
        shed.boats.insert(id, Boat { id, boat });
    }
    let app = Router::new()
        .route("/boats", get(list).post(add))
        .route("/boats/{id}", get(show).put(replace).delete(remove))
        .route("/boats/{id}/launch", post(launch))
        .route("/boats/{id}/survey", get(survey))
        .route("/logbook", get(logbook))
        .with_state(Arc::new(Mutex::new(shed)));
    let port = std::env::args().nth(1).unwrap();
    let listener = tokio::net::TcpListener::bind(format!("127.0.0.1:{port}")).await.unwrap();
    axum::serve(listener, app).await.unwrap();
}
