// The boat shed in Fastify: JSON Schema by the validator that it comes with, asked for all errors, and its own answers.
import Fastify from "fastify";

const kind = { type: "string", enum: ["sail", "motor", "row"] };
const newBoat = {
  type: "object",
  required: ["name", "length_m", "kind", "owner"],
  properties: {
    name: { type: "string", minLength: 1, maxLength: 40 },
    length_m: { type: "number", minimum: 1, maximum: 60 },
    kind,
    owner: {
      type: "object",
      required: ["email"],
      properties: { email: { type: "string", format: "email" }, phone: { type: "string" } },
    },
    built: { type: "string", format: "date" },
    crew: {
      type: "array",
      items: {
        type: "object",
        required: ["name", "role"],
        properties: { name: { type: "string", minLength: 1 }, role: { type: "string", enum: ["skipper", "hand"] } },
      },
    },
  },
};
// Queries and paths are text, so their types are coerced, by Fastify's default.
const list = { type: "object", properties: { limit: { type: "integer", minimum: 1, maximum: 100, default: 20 }, kind } };
const id = { type: "object", properties: { id: { type: "integer" } } };
const launching = { type: "object", required: ["tide"], properties: { tide: { type: "integer", minimum: 1, maximum: 12 } } };

const owner = { email: "mira@reedmarsh.example" };
const boats = new Map(["Tern", "Heron", "Plover"].map((name, i) => [i + 1, { id: i + 1, name, length_m: 7.5, kind: "sail", owner }]));
const launched = new Set();
const app = Fastify({ ajv: { customOptions: { allErrors: true } } });
const problem = (statusCode, message) => Object.assign(new Error(message), { statusCode });
const find = (request) => {
  const boat = boats.get(Number(request.params.id));
  if (!boat) throw problem(404, "Boat not found");
  return boat;
};

app.get("/boats", { schema: { querystring: list } }, async (request) => {
  const { limit, kind } = request.query;
  return [...boats.values()].filter((boat) => !kind || boat.kind === kind).slice(0, limit);
});
app.post("/boats", { schema: { body: newBoat } }, async (request, reply) => {
  const id = Math.max(...boats.keys()) + 1;
  boats.set(id, { id, ...request.body });
  return reply.code(201).header("Location", `/boats/${id}`).send(boats.get(id));
});
app.get("/boats/:id", { schema: { params: id } }, async (request) => find(request));
app.put("/boats/:id", { schema: { body: newBoat } }, async (request) => {
  const boat = find(request);
  boats.set(boat.id, { id: boat.id, ...request.body });
  return boats.get(boat.id);
});
app.delete("/boats/:id", async (request, reply) => {
  boats.delete(find(request).id);
  return reply.code(204).send();
});
app.post("/boats/:id/launch", { schema: { body: launching } }, async (request) => {
  const boat = find(request);
  if (launched.has(boat.id)) throw problem(409, "The boat is launched already");
  launched.add(boat.id);
  return { id: boat.id, tide: request.body.tide };
});
app.get("/boats/:id/survey", async (request) => ({ id: request.params.id, frames: find(request).hull.frames }));
app.get("/logbook", async (request) => {
  if (request.headers.authorization !== "Bearer made-up-token") throw problem(401, "Not authenticated");
  return { entries: [] };
});
await app.listen({ port: Number(process.argv[2]), host: "127.0.0.1" });
