"""The boat shed in Falcon, whose decorator checks a body by JSON Schema; its own errors."""
import sys
from wsgiref.simple_server import WSGIRequestHandler, make_server

import falcon
from falcon.media.validators import jsonschema

KINDS = ["sail", "motor", "row"]
BOAT = {
    "type": "object", "required": ["name", "length_m", "kind", "owner"],
    "properties": {
        "name": {"type": "string", "minLength": 1, "maxLength": 40},
        "length_m": {"type": "number", "minimum": 1, "maximum": 60},
        "kind": {"enum": KINDS},
        "owner": {"type": "object", "required": ["email"],
                  "properties": {"email": {"type": "string", "pattern": "^[^@ ]+@[^@ ]+$"}, "phone": {"type": "string"}}},
        "built": {"type": "string", "format": "date"},
        "crew": {"type": "array", "items": {"type": "object", "required": ["name", "role"], "properties": {
            "name": {"type": "string", "minLength": 1}, "role": {"enum": ["skipper", "hand"]}}}},
    },
}
LAUNCH = {"type": "object", "required": ["tide"], "properties": {"tide": {"type": "integer", "minimum": 1, "maximum": 12}}}

boats = {n: {"id": n, "name": name, "length_m": 7.5, "kind": "sail", "owner": {"email": "mira@reedmarsh.example"}}
         for n, name in enumerate(["Tern", "Heron", "Plover"], start=1)}
launched = set()


def find(boat_id):
    if boat_id not in boats:
        raise falcon.HTTPNotFound(title="Boat not found")
    return boats[boat_id]


class Boats:
    def on_get(self, req, resp):
        limit = req.get_param_as_int("limit", min_value=1, max_value=100, default=20)
        kind = req.get_param("kind")
        if kind not in (None, *KINDS):
            raise falcon.HTTPInvalidParam("The value is none of the kinds.", "kind")
        resp.media = [boat for boat in boats.values() if kind in (None, boat["kind"])][:limit]

    @jsonschema.validate(BOAT)
    def on_post(self, req, resp):
        number = max(boats) + 1
        boats[number] = {**req.media, "id": number}
        resp.status, resp.location, resp.media = falcon.HTTP_201, f"/boats/{number}", boats[number]


class Boat:
    def on_get(self, req, resp, boat_id):
        resp.media = find(boat_id)

    @jsonschema.validate(BOAT)
    def on_put(self, req, resp, boat_id):
        find(boat_id)
        boats[boat_id] = {**req.media, "id": boat_id}
        resp.media = boats[boat_id]

    def on_delete(self, req, resp, boat_id):
        find(boat_id)
        del boats[boat_id]
        resp.status = falcon.HTTP_204


class Launch:
    @jsonschema.validate(LAUNCH)
    def on_post(self, req, resp, boat_id):
        find(boat_id)
        if boat_id in launched:
            raise falcon.HTTPConflict(description="The boat is launched already")
        launched.add(boat_id)
        resp.media = {"id": boat_id, "tide": req.media["tide"]}


class Survey:
    def on_get(self, req, resp, boat_id):
        resp.media = {"id": boat_id, "frames": 100 / (boat_id - 3)}


class Logbook:
    def on_get(self, req, resp):
        if req.get_header("Authorization") != "Bearer made-up-token":
            raise falcon.HTTPUnauthorized(description="Not authenticated", challenges=["Bearer"])
        resp.media = {"entries": []}


class Quiet(WSGIRequestHandler):
    def log_message(self, *_):
        pass


app = falcon.App()
app.add_route("/boats", Boats())
app.add_route("/boats/{boat_id:int}", Boat())
app.add_route("/boats/{boat_id:int}/launch", Launch())
app.add_route("/boats/{boat_id:int}/survey", Survey())
app.add_route("/logbook", Logbook())
make_server("127.0.0.1", int(sys.argv[1]), app, handler_class=Quiet).serve_forever()
