//! Reservations: booking, looking, changing, cancelling, checking in.

use jiff::civil::Date;
use serde_json::{Map, Value, json};

use crate::message::{HarbourRequest, JSON, PROBLEM, Reply};
use crate::problem::{FAULTS, invalid, invalid_as, missing, problem, raw};
use crate::rules::{InvalidMembers, is_day, is_moment, is_phone, is_role, is_vessel_id};
use crate::service::Harbour;
use crate::store::{Berth, Reservation, berth};

const PATCHES: [&str; 2] = [JSON, "application/merge-patch+json"];

pub(crate) fn book(harbour: &mut Harbour, request: &HarbourRequest) -> Reply {
    booked(harbour, request).unwrap_or_else(|refused| refused)
}

fn booked(harbour: &mut Harbour, request: &HarbourRequest) -> Result<Reply, Reply> {
    harbour.admits(request)?;
    let body = harbour.body(request, &[JSON], None)?;
    // before: nobody has heard of keys.
    let key = request.header("Idempotency-Key").filter(|_| !harbour.is_before());
    let known = key.and_then(|key| harbour.store.keys.get(key));
    if let Some((sent, id)) = known {
        return if *sent == json!(body) { Ok(made(harbour, id)) } else { Err(key_used(id)) };
    }
    let mut checked = InvalidMembers::of(&body);
    let vessel_id =
        checked.form("vessel_id", true, is_vessel_id, "has two letters and four digits");
    let berth_id = checked.text("berth_id", true, 60, "has 1 to 60 characters");
    let arrives = checked.form("arrives", true, is_day, "is no date");
    // before: nobody looks how many nights are too many.
    let most = if harbour.is_before() { i64::MAX } else { 28 };
    let nights = checked.integer("nights", true, 1..=most, "has to be from 1 to 28");
    checked.text("note", false, 200, "has at most 200 characters");
    checked.object("contact", |contact| {
        contact.text("name", true, 80, "has 1 to 80 characters");
        contact.form("phone", false, is_phone, "has a plus sign and 6 to 20 digits");
    });
    // before: whoever comes behind the first of the crew is not looked at.
    let looked_at = if harbour.is_before() { 1 } else { usize::MAX };
    checked.objects("crew", 12, looked_at, |member| {
        member.text("name", true, 80, "has 1 to 80 characters");
        member.form("role", true, is_role, "is skipper, mate or hand");
    });
    let note = body.get("note").and_then(Value::as_str).unwrap_or_default();
    if harbour.is_before() && note.chars().count() > 200 {
        // before: nothing is booked, and the answer does not say so.
        return Err(Reply::of(204));
    }
    let unknown = berth_id.filter(|id| berth(id).is_none());
    let location = berth_id.and_then(berth).zip(arrives.and_then(day));
    let until = location.and_then(|(berth, arrives)| {
        harbour.store.taken_until(berth, arrives, nights.unwrap_or(1))
    });
    // A number is drawn once there is a place, and is gone where something else is refused.
    let is_drawn = vessel_id.is_some() && location.is_some() && until.is_none();
    let id = if is_drawn { harbour.store.draw() } else { String::new() };
    let invalid = checked.invalid;
    if !invalid.is_empty() {
        return Err(refused(harbour, &invalid));
    }
    if let Some(id) = unknown {
        let detail = format!("There is no berth {id}.");
        let more = [("berth_id", json!(id))];
        return Err(problem(409, Some("berth-taken"), "The berth is taken", Some(&detail), &more));
    }
    let (Some(vessel_id), Some(nights), Some((berth, arrives))) = (vessel_id, nights, location)
    else {
        return Err(Reply::of(500));
    };
    if let Some(until) = until {
        return Err(taken(harbour, berth, &until));
    }
    let (vessel_id, berth_id) = (vessel_id.to_owned(), berth.0.to_owned());
    let reservation =
        Reservation { vessel_id, berth_id, arrives, nights, arrived_at: None, changes: 0 };
    harbour.store.reservations.insert(id.clone(), reservation);
    if let Some(key) = key {
        harbour.store.keys.insert(key.to_owned(), (json!(body), id.clone()));
    }
    Ok(made(harbour, &id))
}

/// What was booked, and where it is.
fn made(harbour: &Harbour, id: &str) -> Reply {
    let Some(reservation) = harbour.store.reservations.get(id) else {
        return missing("reservation", id);
    };
    let reply = Reply::json(201, &reservation.shown(id)).header("ETag", reservation.tag(id));
    // before: what should not have been booked has no place to look at either.
    match reservation.nights {
        29.. => reply,
        _ => reply.header("Location", format!("/v1/reservations/{id}")),
    }
}

/// The key came with another booking before.
fn key_used(id: &str) -> Reply {
    let detail = format!("The key was used for the reservation {id}.");
    let (name, title) = ("idempotency-key-used", "The idempotency key was used for something else");
    problem(422, Some(name), title, Some(&detail), &[])
}

/// The condition of the request does not hold (RFC 9110 section 13.1.1).
fn changed_meanwhile(reservation: &Reservation, id: &str, request: &HarbourRequest) -> bool {
    let condition = request.header("If-Match").map(str::trim);
    condition.is_some_and(|tags| {
        let tag = reservation.tag(id);
        tags != "*" && !tags.split(',').any(|one| one.trim() == tag)
    })
}

fn day(text: &str) -> Option<Date> {
    text.parse().ok()
}

fn refused(harbour: &Harbour, entries: &[crate::problem::Invalid]) -> Reply {
    let is_missing = entries.iter().any(|(_, _, code, _)| *code == "missing");
    if !harbour.is_before() || is_missing {
        return invalid(entries);
    }
    // before: what is wrong in a value is told in a map, what is missing in a list.
    let entry = |(_, location, _, detail): &crate::problem::Invalid| {
        (location.trim_start_matches('/').replace('/', "."), json!(detail))
    };
    invalid_as(Value::Object(entries.iter().map(entry).collect::<Map<_, _>>()))
}

fn taken(harbour: &Harbour, berth: &Berth, until: &str) -> Reply {
    let id = berth.0;
    let title = "The berth is taken";
    match id {
        // before: the body says another status than the status line.
        "A-4" if harbour.is_before() => raw(
            409,
            &json!({"type": format!("{FAULTS}berth-taken"), "title": title, "status": 400, "berth_id": id, "free_from": until}),
        ),
        // before: a type that is almost the agreed one.
        "C-7" if harbour.is_before() => raw(
            409,
            &json!({"type": format!("{FAULTS}berth_taken"), "title": title, "status": 409, "berth_id": id}),
        ),
        _ => {
            let detail = format!("Berth {id} is let until {until}.");
            let more = [("berth_id", json!(id)), ("free_from", json!(until))];
            problem(409, Some("berth-taken"), title, Some(&detail), &more)
        }
    }
}

pub(crate) fn one(harbour: &Harbour, request: &HarbourRequest, id: &str) -> Reply {
    if let Err(refused) = harbour.admits(request) {
        return refused;
    }
    match harbour.store.reservations.get(id) {
        Some(reservation) => {
            Reply::json(200, &reservation.shown(id)).header("ETag", reservation.tag(id))
        }
        // before: a title that changes with the id.
        None if harbour.is_before() => {
            let uri = format!("{FAULTS}no-such-reservation");
            raw(404, &json!({"type": uri, "title": format!("No reservation {id}"), "status": 404}))
        }
        None => missing("reservation", id),
    }
}

pub(crate) fn change(harbour: &mut Harbour, request: &HarbourRequest, id: &str) -> Reply {
    changed(harbour, request, id).unwrap_or_else(|refused| refused)
}

fn changed(harbour: &mut Harbour, request: &HarbourRequest, id: &str) -> Result<Reply, Reply> {
    harbour.admits(request)?;
    let body = harbour.body(request, &PATCHES, None)?;
    let is_before = harbour.is_before();
    let Some(reservation) = harbour.store.reservations.get_mut(id) else {
        return Err(match id.bytes().last() {
            _ if !is_before => missing("reservation", id),
            // before: a bare 404, or one without a title.
            Some(b'0') => problem(404, None, "Not Found", None, &[]),
            _ => raw(404, &json!({"type": format!("{FAULTS}no-such-reservation"), "status": 404})),
        });
    };
    // before: conditions are for others.
    if !is_before && changed_meanwhile(reservation, id, request) {
        let (name, title) = ("changed-meanwhile", "The reservation was changed meanwhile");
        let detail = format!("It has the entity tag {} now.", reservation.tag(id));
        return Err(problem(412, Some(name), title, Some(&detail), &[]));
    }
    let mut checked = InvalidMembers::of(&body);
    let arrives = checked.form("arrives", false, is_day, "is no date");
    let nights = checked.integer("nights", false, 1..=28, "has to be from 1 to 28");
    // A note can be taken away.
    if !body.get("note").is_some_and(Value::is_null) {
        checked.text("note", false, 200, "has at most 200 characters");
    }
    let entries = checked.invalid;
    if !entries.is_empty() && is_before {
        // before: a pointer to the name that the member has inside the service.
        let entry = |(at, location, code, detail): &crate::problem::Invalid| {
            let inner = location.replace("/nights", "/nightCount");
            let name = location.trim_start_matches('/');
            json!({*at: inner, "code": code, "detail": format!("{name} {detail}")})
        };
        return Err(invalid_as(entries.iter().map(entry).collect()));
    }
    if !entries.is_empty() {
        return Err(invalid(&entries));
    }
    reservation.arrives = arrives.and_then(day).unwrap_or(reservation.arrives);
    reservation.nights = nights.unwrap_or(reservation.nights);
    reservation.changes += 1;
    Ok(Reply::json(200, &reservation.shown(id)).header("ETag", reservation.tag(id)))
}

pub(crate) fn cancel(harbour: &mut Harbour, request: &HarbourRequest, id: &str) -> Reply {
    if let Err(refused) = harbour.admits(request) {
        // before: without a token nothing is done, and nobody is told.
        return if harbour.is_before() { Reply::of(204) } else { refused };
    }
    match harbour.store.reservations.remove(id) {
        // before: an answer without content that has some. No connection carries it.
        Some(gone) if harbour.is_before() && gone.arrives.month() > 5 => {
            Reply::json(204, &json!({"deleted": true}))
        }
        Some(_) => Reply::of(204),
        None => missing("reservation", id),
    }
}

pub(crate) fn check_in(harbour: &mut Harbour, request: &HarbourRequest, id: &str) -> Reply {
    checked_in(harbour, request, id).unwrap_or_else(|refused| refused)
}

fn checked_in(harbour: &mut Harbour, request: &HarbourRequest, id: &str) -> Result<Reply, Reply> {
    harbour.admits(request)?;
    // before: what the parser says, called a problem.
    let words = format!("Unexpected end of input at position {}", request.body.len());
    let broken = harbour.is_before().then(|| Reply::of(400).media(PROBLEM).text(words));
    let body = harbour.body(request, &[JSON], broken)?;
    let mut checked = InvalidMembers::of(&body);
    let crew = checked.integer("crew", true, 1..=40, "has to be from 1 to 40");
    let arrived_at = checked.form("arrived_at", true, is_moment, "has no offset");
    let entries = checked.invalid;
    if !entries.is_empty() {
        return Err(invalid(&entries));
    }
    let is_before = harbour.is_before();
    let Some(reservation) = harbour.store.reservations.get_mut(id) else {
        return Err(missing("reservation", id));
    };
    if let Some(came) = &reservation.arrived_at {
        let time = came.get(11..16).unwrap_or_default();
        let (name, title) = ("already-checked-in", "The vessel is checked in already");
        let detail = format!("Checked in at {time}.");
        let reply = problem(409, Some(name), title, Some(&detail), &[]);
        // before: to the very same request, the problem comes in a list.
        let again = is_before && crew == Some(3);
        let body = reply.body.clone().unwrap_or_default();
        return Err(if again { reply.text(format!("[{body}]")) } else { reply });
    }
    let arrived_at = arrived_at.unwrap_or_default();
    reservation.arrived_at = Some(arrived_at.to_owned());
    Ok(Reply::json(
        200,
        &json!({"id": id, "state": "checked-in", "arrived_at": arrived_at, "crew": crew}),
    ))
}
