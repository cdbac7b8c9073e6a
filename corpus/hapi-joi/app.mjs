// The boat shed in hapi, with joi: its own validation, asked for all errors and to send them, and its own answers.
import Hapi from "@hapi/hapi";
import Joi from "joi";

const kind = Joi.string().valid("sail", "motor", "row");
const newBoat = Joi.object({
  name: Joi.string().min(1).max(40).required(),
  length_m: Joi.number().min(1).max(60).required(),
  kind: kind.required(),
  owner: Joi.object({ email: Joi.string().email({ tlds: false }).required(), phone: Joi.string() }).required(),
  built: Joi.string().isoDate(),
  crew: Joi.array().items(
    Joi.object({ name: Joi.string().min(1).required(), role: Joi.string().valid("skipper", "hand").required() }),
  ),
}).required();
const id = Joi.object({ id: Joi.number().integer() });

const owner = { email: "mira@reedmarsh.example" };
const boats = new Map(["Tern", "Heron", "Plover"].map((name, i) => [i + 1, { id: i + 1, name, length_m: 7.5, kind: "sail", owner }]));
const launched = new Set();
const failAction = (request, h, error) => {
  throw error;
};
const server = Hapi.server({
  port: Number(process.argv[2]),
  host: "127.0.0.1",
  routes: { validate: { failAction, options: { abortEarly: false } } },
});
const failed = (statusCode, message) => {
  const error = new Error(message);
  error.isBoom = true;
  error.isServer = false;
  const title = { 401: "Unauthorized", 404: "Not Found", 409: "Conflict" }[statusCode];
  error.output = { statusCode, payload: { statusCode, error: title, message }, headers: {} };
  if (statusCode === 401) error.output.headers["WWW-Authenticate"] = "Bearer";
  return error;
};
const find = (request) => {
  const boat = boats.get(request.params.id);
  if (!boat) throw failed(404, "Boat not found");
  return boat;
};

server.route([
  {
    method: "GET",
    path: "/boats",
    options: { validate: { query: Joi.object({ limit: Joi.number().integer().min(1).max(100).default(20), kind }) } },
    handler: ({ query }) => [...boats.values()].filter((boat) => !query.kind || boat.kind === query.kind).slice(0, query.limit),
  },
  {
    method: "POST",
    path: "/boats",
    options: { validate: { payload: newBoat } },
    handler: (request, h) => {
      const number = Math.max(...boats.keys()) + 1;
      boats.set(number, { id: number, ...request.payload });
      return h.response(boats.get(number)).code(201).header("Location", `/boats/${number}`);
    },
  },
  { method: "GET", path: "/boats/{id}", options: { validate: { params: id } }, handler: find },
  {
    method: "PUT",
    path: "/boats/{id}",
    options: { validate: { params: id, payload: newBoat } },
    handler: (request) => {
      const boat = find(request);
      boats.set(boat.id, { id: boat.id, ...request.payload });
      return boats.get(boat.id);
    },
  },
  {
    method: "DELETE",
    path: "/boats/{id}",
    options: { validate: { params: id } },
    handler: (request, h) => {
      boats.delete(find(request).id);
      return h.response().code(204);
    },
  },
  {
    method: "POST",
    path: "/boats/{id}/launch",
    options: { validate: { params: id, payload: Joi.object({ tide: Joi.number().integer().min(1).max(12).required() }) } },
    handler: (request) => {
      const boat = find(request);
      if (launched.has(boat.id)) throw failed(409, "The boat is launched already");
      launched.add(boat.id);
      return { id: boat.id, tide: request.payload.tide };
    },
  },
  {
    method: "GET",
    path: "/boats/{id}/survey",
    options: { validate: { params: id } },
    handler: (request) => ({ id: request.params.id, frames: find(request).hull.frames }),
  },
  {
    method: "GET",
    path: "/logbook",
    handler: (request) => {
      if (request.headers.authorization !== "Bearer made-up-token") throw failed(401, "Not authenticated");
      return { entries: [] };
    },
  },
]);
await server.start();
