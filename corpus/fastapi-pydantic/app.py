"""The boat shed in FastAPI: models of pydantic, and the framework's own errors."""
import sys
from datetime import date
from enum import Enum
from typing import Annotated, Optional

import uvicorn
from fastapi import FastAPI, Header, HTTPException, Query, Response
from pydantic import BaseModel, Field


class Kind(str, Enum):
    sail = "sail"
    motor = "motor"
    row = "row"


class Role(str, Enum):
    skipper = "skipper"
    hand = "hand"


class Owner(BaseModel):
    email: str = Field(pattern=r"^[^@ ]+@[^@ ]+$")
    phone: Optional[str] = None


class Sailor(BaseModel):
    name: str = Field(min_length=1)
    role: Role


class NewBoat(BaseModel):
    name: str = Field(min_length=1, max_length=40)
    length_m: float = Field(ge=1, le=60)
    kind: Kind
    owner: Owner
    built: Optional[date] = None
    crew: list[Sailor] = []


class Boat(NewBoat):
    id: int


class Launch(BaseModel):
    tide: int = Field(ge=1, le=12)


app = FastAPI()
OWNER = Owner(email="mira@reedmarsh.example")
boats = {n: Boat(id=n, name=name, length_m=7.5, kind=Kind.sail, owner=OWNER)
         for n, name in enumerate(["Tern", "Heron", "Plover"], start=1)}
launched = set()


def find(boat_id):
    if boat_id not in boats:
        raise HTTPException(status_code=404, detail="Boat not found")
    return boats[boat_id]


@app.get("/boats")
def list_boats(limit: Annotated[int, Query(ge=1, le=100)] = 20, kind: Optional[Kind] = None):
    return [boat for boat in boats.values() if kind in (None, boat.kind)][:limit]


@app.post("/boats", status_code=201)
def add_boat(boat: NewBoat, response: Response):
    number = max(boats) + 1
    boats[number] = Boat(id=number, **boat.model_dump())
    response.headers["Location"] = f"/boats/{number}"
    return boats[number]


@app.get("/boats/{boat_id}")
def show_boat(boat_id: int):
    return find(boat_id)


@app.put("/boats/{boat_id}")
def replace_boat(boat_id: int, boat: NewBoat):
    find(boat_id)
    boats[boat_id] = Boat(id=boat_id, **boat.model_dump())
    return boats[boat_id]


@app.delete("/boats/{boat_id}", status_code=204)
def delete_boat(boat_id: int):
    find(boat_id)
    del boats[boat_id]


@app.post("/boats/{boat_id}/launch")
def launch(boat_id: int, launch: Launch):
    find(boat_id)
    if boat_id in launched:
        raise HTTPException(status_code=409, detail="The boat is launched already")
    launched.add(boat_id)
    return {"id": boat_id, "tide": launch.tide}


@app.get("/boats/{boat_id}/survey")
def survey(boat_id: int):
    return {"id": boat_id, "frames": 100 / (boat_id - 3)}


@app.get("/logbook")
def logbook(authorization: Annotated[Optional[str], Header()] = None):
    if authorization != "Bearer made-up-token":
        raise HTTPException(status_code=401, detail="Not authenticated", headers={"WWW-Authenticate": "Bearer"})
    return {"entries": []}


uvicorn.run(app, port=int(sys.argv[1]), log_level="critical")
