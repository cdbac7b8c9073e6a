"""The boat shed in Connexion: a description first, requests checked by it, and the framework's own problem details."""
import sys

import connexion
from connexion.exceptions import ProblemException

KIND = {"type": "string", "enum": ["sail", "motor", "row"]}
BOAT = {
    "type": "object", "required": ["name", "length_m", "kind", "owner"],
    "properties": {
        "name": {"type": "string", "minLength": 1, "maxLength": 40},
        "length_m": {"type": "number", "minimum": 1, "maximum": 60},
        "kind": KIND,
        "owner": {"type": "object", "required": ["email"],
                  "properties": {"email": {"type": "string", "pattern": "^[^@ ]+@[^@ ]+$"}, "phone": {"type": "string"}}},
        "built": {"type": "string", "format": "date"},
        "crew": {"type": "array", "items": {"type": "object", "required": ["name", "role"], "properties": {
            "name": {"type": "string", "minLength": 1}, "role": {"type": "string", "enum": ["skipper", "hand"]}}}},
    },
}
LAUNCH = {"type": "object", "required": ["tide"], "properties": {"tide": {"type": "integer", "minimum": 1, "maximum": 12}}}
ID = [{"name": "boat_id", "in": "path", "required": True, "schema": {"type": "integer"}}]


def operation(name, code, body=None, **more):
    own = {"operationId": f"__main__.{name}", "responses": {code: {"description": "as asked for"}}, **more}
    if body:
        own["requestBody"] = {"required": True, "content": {"application/json": {"schema": body}}}
    return own


DESCRIPTION = {
    "openapi": "3.0.3", "info": {"title": "Boat shed", "version": "1"},
    "components": {"securitySchemes": {"token": {"type": "http", "scheme": "bearer", "x-bearerInfoFunc": "__main__.keeper"}}},
    "paths": {
        "/boats": {
            "get": operation("list_boats", "200", parameters=[
                {"name": "limit", "in": "query", "schema": {"type": "integer", "minimum": 1, "maximum": 100, "default": 20}},
                {"name": "kind", "in": "query", "schema": KIND}]),
            "post": operation("add_boat", "201", BOAT),
        },
        "/boats/{boat_id}": {
            "parameters": ID, "get": operation("show_boat", "200"), "put": operation("replace_boat", "200", BOAT),
            "delete": operation("delete_boat", "204"),
        },
        "/boats/{boat_id}/launch": {"parameters": ID, "post": operation("launch", "200", LAUNCH)},
        "/boats/{boat_id}/survey": {"parameters": ID, "get": operation("survey", "200")},
        "/logbook": {"get": operation("logbook", "200", security=[{"token": []}])},
    },
}

boats = {n: {"id": n, "name": name, "length_m": 7.5, "kind": "sail", "owner": {"email": "mira@reedmarsh.example"}}
         for n, name in enumerate(["Tern", "Heron", "Plover"], start=1)}
launched = set()


def keeper(token):
    return {"sub": "keeper"} if token == "made-up-token" else None


def find(boat_id):
    if boat_id not in boats:
        raise ProblemException(status=404, title="Not Found", detail="Boat not found")
    return boats[boat_id]


def list_boats(limit=20, kind=None):
    return [boat for boat in boats.values() if kind in (None, boat["kind"])][:limit]


def add_boat(body):
    number = max(boats) + 1
    boats[number] = {**body, "id": number}
    return boats[number], 201, {"Location": f"/boats/{number}"}


def show_boat(boat_id):
    return find(boat_id)


def replace_boat(boat_id, body):
    find(boat_id)
    boats[boat_id] = {**body, "id": boat_id}
    return boats[boat_id]


def delete_boat(boat_id):
    find(boat_id)
    del boats[boat_id]
    return None, 204


def launch(boat_id, body):
    find(boat_id)
    if boat_id in launched:
        raise ProblemException(status=409, title="Conflict", detail="The boat is launched already")
    launched.add(boat_id)
    return {"id": boat_id, "tide": body["tide"]}


def survey(boat_id):
    return {"id": boat_id, "frames": 100 / (boat_id - 3)}


def logbook():
    return {"entries": []}


app = connexion.FlaskApp(__name__)
app.add_api(DESCRIPTION)
if __name__ == "__main__":
    import uvicorn

    uvicorn.run(app, port=int(sys.argv[1]), log_level="critical")
