// The boat shed in Express, with zod: what zod finds is sent as it is, all else is the framework's own handler.
import express from "express";
import { z } from "zod";

const Kind = z.enum(["sail", "motor", "row"]);
const NewBoat = z.object({
  name: z.string().min(1).max(40),
  length_m: z.number().min(1).max(60),
  kind: Kind,
  owner: z.object({ email: z.email(), phone: z.string().optional() }),
  built: z.iso.date().optional(),
  crew: z.array(z.object({ name: z.string().min(1), role: z.enum(["skipper", "hand"]) })).optional(),
});
const Launch = z.object({ tide: z.number().int().min(1).max(12) });
const List = z.object({ limit: z.coerce.number().int().min(1).max(100).default(20), kind: Kind.optional() });

const owner = { email: "mira@reedmarsh.example" };
const boats = new Map(["Tern", "Heron", "Plover"].map((name, i) => [i + 1, { id: i + 1, name, length_m: 7.5, kind: "sail", owner }]));
const launched = new Set();
const app = express();
app.use(express.json());

const valid = (schema, part) => (req, res, next) => {
  const result = schema.safeParse(req[part]);
  if (!result.success) return res.status(400).json({ error: "Validation failed", issues: result.error.issues });
  res.locals.asked = result.data;
  next();
};
const found = (req, res, next) => {
  res.locals.boat = boats.get(Number(req.params.id));
  if (!res.locals.boat) return res.status(404).json({ error: "Boat not found" });
  next();
};

app.get("/boats", valid(List, "query"), (req, res) => {
  const { limit, kind } = res.locals.asked;
  res.json([...boats.values()].filter((boat) => !kind || boat.kind === kind).slice(0, limit));
});
app.post("/boats", valid(NewBoat, "body"), (req, res) => {
  const id = Math.max(...boats.keys()) + 1;
  boats.set(id, { id, ...res.locals.asked });
  res.status(201).location(`/boats/${id}`).json(boats.get(id));
});
app.get("/boats/:id", found, (req, res) => res.json(res.locals.boat));
app.put("/boats/:id", found, valid(NewBoat, "body"), (req, res) => {
  boats.set(res.locals.boat.id, { id: res.locals.boat.id, ...res.locals.asked });
  res.json(boats.get(res.locals.boat.id));
});
app.delete("/boats/:id", found, (req, res) => {
  boats.delete(res.locals.boat.id);
  res.status(204).end();
});
app.post("/boats/:id/launch", found, valid(Launch, "body"), (req, res) => {
  const { id } = res.locals.boat;
  if (launched.has(id)) return res.status(409).json({ error: "The boat is launched already" });
  launched.add(id);
  res.json({ id, tide: res.locals.asked.tide });
});
app.get("/boats/:id/survey", found, (req, res) => res.json({ id: res.locals.boat.id, frames: res.locals.boat.hull.frames }));
app.get("/logbook", (req, res) => {
  if (req.get("Authorization") !== "Bearer made-up-token") return res.status(401).json({ error: "Not authenticated" });
  res.json({ entries: [] });
});
app.listen(Number(process.argv[2]), "127.0.0.1");
