"""The boat shed in Flask: schemas of marshmallow, whose messages are sent as they are, and the framework's own errors."""
import logging
import sys

from flask import Flask, abort, jsonify, request
from marshmallow import RAISE, Schema, ValidationError, fields, validate


class OwnerSchema(Schema):
    email = fields.Email(required=True)
    phone = fields.String()


class SailorSchema(Schema):
    name = fields.String(required=True, validate=validate.Length(min=1))
    role = fields.String(required=True, validate=validate.OneOf(["skipper", "hand"]))


class BoatSchema(Schema):
    id = fields.Integer(dump_only=True)
    name = fields.String(required=True, validate=validate.Length(min=1, max=40))
    length_m = fields.Float(required=True, validate=validate.Range(min=1, max=60))
    kind = fields.String(required=True, validate=validate.OneOf(["sail", "motor", "row"]))
    owner = fields.Nested(OwnerSchema, required=True)
    built = fields.Date()
    crew = fields.List(fields.Nested(SailorSchema))


class LaunchSchema(Schema):
    tide = fields.Integer(required=True, strict=True, validate=validate.Range(min=1, max=12))


class ListSchema(Schema):
    limit = fields.Integer(load_default=20, validate=validate.Range(min=1, max=100))
    kind = fields.String(validate=validate.OneOf(["sail", "motor", "row"]))


app = Flask(__name__)
boats = {n: {"id": n, "name": name, "length_m": 7.5, "kind": "sail", "owner": {"email": "mira@reedmarsh.example"}}
         for n, name in enumerate(["Tern", "Heron", "Plover"], start=1)}
launched = set()


@app.errorhandler(ValidationError)
def invalid(error):
    return jsonify(error.messages), 422


def find(boat_id):
    if boat_id not in boats:
        abort(404)
    return boats[boat_id]


@app.get("/boats")
def list_boats():
    asked = ListSchema(unknown=RAISE).load(request.args)
    return jsonify([boat for boat in boats.values() if asked.get("kind", boat["kind"]) == boat["kind"]][: asked["limit"]])


@app.post("/boats")
def add_boat():
    boat = BoatSchema(unknown=RAISE).load(request.get_json())
    boat["id"] = max(boats) + 1
    boats[boat["id"]] = boat
    return jsonify(BoatSchema().dump(boat)), 201, {"Location": f"/boats/{boat['id']}"}


@app.get("/boats/<int:boat_id>")
def show_boat(boat_id):
    return jsonify(find(boat_id))


@app.put("/boats/<int:boat_id>")
def replace_boat(boat_id):
    find(boat_id)
    boats[boat_id] = {"id": boat_id, **BoatSchema(unknown=RAISE).load(request.get_json())}
    return jsonify(BoatSchema().dump(boats[boat_id]))


@app.delete("/boats/<int:boat_id>")
def delete_boat(boat_id):
    find(boat_id)
    del boats[boat_id]
    return "", 204


@app.post("/boats/<int:boat_id>/launch")
def launch(boat_id):
    find(boat_id)
    asked = LaunchSchema(unknown=RAISE).load(request.get_json())
    if boat_id in launched:
        abort(409, "The boat is launched already")
    launched.add(boat_id)
    return {"id": boat_id, "tide": asked["tide"]}


@app.get("/boats/<int:boat_id>/survey")
def survey(boat_id):
    return {"id": boat_id, "frames": 100 / (boat_id - 3)}


@app.get("/logbook")
def logbook():
    if request.headers.get("Authorization") != "Bearer made-up-token":
        abort(401)
    return {"entries": []}


logging.disable(logging.CRITICAL)
app.run(port=int(sys.argv[1]))
