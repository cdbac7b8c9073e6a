"""The boat shed in Litestar, with its plugin for problem details and models of pydantic."""
import sys
from datetime import date
from enum import Enum
from typing import Annotated, Optional

import uvicorn
from litestar import Litestar, Request, Response, delete, get, post, put
from litestar.exceptions import HTTPException, NotAuthorizedException, NotFoundException
from litestar.params import Parameter
from litestar.plugins.problem_details import ProblemDetailsConfig, ProblemDetailsPlugin
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


class Launching(BaseModel):
    tide: int = Field(ge=1, le=12)


OWNER = Owner(email="mira@reedmarsh.example")
boats = {n: Boat(id=n, name=name, length_m=7.5, kind=Kind.sail, owner=OWNER)
         for n, name in enumerate(["Tern", "Heron", "Plover"], start=1)}
launched = set()


def find(boat_id):
    if boat_id not in boats:
        raise NotFoundException(detail="Boat not found")
    return boats[boat_id]


@get("/boats")
async def list_boats(limit: Annotated[int, Parameter(ge=1, le=100)] = 20, kind: Optional[Kind] = None) -> list[Boat]:
    return [boat for boat in boats.values() if kind in (None, boat.kind)][:limit]


@post("/boats")
async def add_boat(data: NewBoat) -> Response[Boat]:
    number = max(boats) + 1
    boats[number] = Boat(id=number, **data.model_dump())
    return Response(boats[number], status_code=201, headers={"Location": f"/boats/{number}"})


@get("/boats/{boat_id:int}")
async def show_boat(boat_id: int) -> Boat:
    return find(boat_id)


@put("/boats/{boat_id:int}")
async def replace_boat(boat_id: int, data: NewBoat) -> Boat:
    find(boat_id)
    boats[boat_id] = Boat(id=boat_id, **data.model_dump())
    return boats[boat_id]


@delete("/boats/{boat_id:int}")
async def delete_boat(boat_id: int) -> None:
    find(boat_id)
    del boats[boat_id]


@post("/boats/{boat_id:int}/launch", status_code=200)
async def launch(boat_id: int, data: Launching) -> dict[str, int]:
    find(boat_id)
    if boat_id in launched:
        raise HTTPException(status_code=409, detail="The boat is launched already")
    launched.add(boat_id)
    return {"id": boat_id, "tide": data.tide}


@get("/boats/{boat_id:int}/survey")
async def survey(boat_id: int) -> dict[str, float]:
    return {"id": boat_id, "frames": 100 / (boat_id - 3)}


@get("/logbook")
async def logbook(request: Request) -> dict[str, list]:
    if request.headers.get("Authorization") != "Bearer made-up-token":
        raise NotAuthorizedException(detail="Not authenticated", headers={"WWW-Authenticate": "Bearer"})
    return {"entries": []}


problems = ProblemDetailsPlugin(ProblemDetailsConfig(enable_for_all_http_exceptions=True))
app = Litestar([list_boats, add_boat, show_boat, replace_boat, delete_boat, launch, survey, logbook], plugins=[problems])
uvicorn.run(app, port=int(sys.argv[1]), log_level="critical")
