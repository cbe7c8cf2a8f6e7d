// A host written from docs/format/link.md alone: one crane, values and undo in memory.
// node small_host.mjs FOLDER; ends when its standard input does.
import { createServer } from "node:net";
import { randomBytes } from "node:crypto";
import { chmodSync, mkdirSync, rmSync, writeFileSync } from "node:fs";

const folder = process.argv[2];
const path = `${folder}/small-${process.pid}.sock`;
const token = randomBytes(24).toString("hex");
const FRAME = 1 << 20, RATE = 2000, WATCH = 1.5;

const description = {
  format: "fox-hand rig sidecar", version: 3, name: "Crane", metres_per_unit: 0.01, up: "z",
  nodes: [{ name: "base" }, { name: "arm", parent: "base", translation: [0, 0, 120] },
          { name: "hook", parent: "arm", translation: [80, 0, 0] }],
  controls: { base: { channels: ["move", "turn"] }, arm: { order: "ZXY", channels: ["turn"] },
              hook: { channels: ["turn"], settings: ["grip"] } },
  settings: { grip: { minimum: 0, maximum: 10 } },
};
const scene = {};
for (const [name, notes] of Object.entries(description.controls)) {
  scene[name] = {};
  for (const kind of notes.channels) for (const axis of "xyz") scene[name][`${kind}.${axis}`] = 0;
  for (const setting of notes.settings ?? []) scene[name][setting] = 0;
}
let shown = null, revision = 1, guests = [], heard = 0;

class No extends Error {
  constructor(code, message, data) { super(message); this.code = code; this.data = data; }
}
const known = (rig) => { if (rig !== "crane") throw new No(-32011, "no such rig"); };
const fresh = (p) => {
  if (p.revision !== revision) throw new No(-32010, "the rig changed meanwhile", { revision });
};
const checked = (values) => {
  for (const [control, channels] of Object.entries(values ?? {}))
    for (const [channel, value] of Object.entries(channels)) {
      if (typeof value !== "number") throw new No(-32602, "numbers");
      if (!(channel in (scene[control] ?? {}))) throw new No(-32000, `no ${control} ${channel}`);
    }
  return values ?? {};
};
const lay = (onto, values) => {
  for (const [control, channels] of Object.entries(values))
    onto[control] = { ...onto[control], ...channels };
};
const tell = (method, params) => guests.forEach((g) => g.say({ method, params }));

const methods = {
  still: () => ({}),
  rigs: () => ({ rigs: [{ id: "crane", name: "Crane", prefix: "", revision }] }),
  describe: (p) => (known(p.rig), { rig: description, revision }),
  values: (p) => (known(p.rig), { values: scene, revision }),
  show: (p) => {
    known(p.rig); fresh(p);
    const values = checked(p.values);
    lay((shown ??= {}), values);
    return { number: p.number ?? 0, revision, took: 0, slow: false };
  },
  put_back: (p) => (known(p.rig), (shown = null), { revision }),
  keep: (p) => {
    known(p.rig); fresh(p);
    const values = checked(p.values);
    shown = null;
    lay(scene, values);
    revision += 1;
    tell("values", { rig: "crane", revision });
    return { revision, refused: [] };
  },
};
const leading = new Set(["show", "put_back", "keep"]);

function meet(socket) {
  const guest = { in: false, bad: 0 };
  let waiting = Buffer.alloc(0), count = 0, second = Date.now();
  guest.say = (frame) => socket.writable && socket.write(JSON.stringify({ jsonrpc: "2.0", ...frame }) + "\n");
  const refuse = (id, error) => {
    const { code, message, data } = error;
    guest.say({ id, error: data === undefined ? { code, message } : { code, message, data } });
  };
  const end = () => {
    const led = guests[0] === guest;
    guests = guests.filter((g) => g !== guest);
    if (led) { shown = null; guests[0]?.say({ method: "role", params: { role: "leads" } }); }
  };
  const take = (line) => {
    let asked;
    try { asked = JSON.parse(line); } catch { asked = undefined; }
    const named = asked && typeof asked === "object" && typeof asked.method === "string";
    if (!named || asked.jsonrpc !== "2.0" || !["number", "string"].includes(typeof asked.id)) {
      refuse(null, asked === undefined ? new No(-32700, "no JSON") : new No(-32600, "no request"));
      if (!guest.in || ++guest.bad >= 20) socket.end();
      return;
    }
    const p = asked.params ?? {};
    if (asked.method === "hello") {
      if (p.token !== token) { refuse(asked.id, new No(-32001, "not welcome")); return socket.end(); }
      if (!p.protocol?.includes(1)) { refuse(asked.id, new No(-32002, "version")); return socket.end(); }
      guest.in = true;
      guests.push(guest);
      return guest.say({ id: asked.id, result: {
        protocol: 1, host: { name: "Small host", version: "1" }, scene: { name: "yard", number: 1 },
        can: ["preview", "keep"], limits: { frame: FRAME, rate: RATE, watch: WATCH },
        role: guests[0] === guest ? "leads" : "watches" } });
    }
    if (!guest.in) { refuse(asked.id, new No(-32003, "hello first")); return socket.end(); }
    if (guests[0] === guest) heard = Date.now();
    try {
      if (!(asked.method in methods)) throw new No(-32601, "no such method");
      if (leading.has(asked.method) && guests[0] !== guest) throw new No(-32012, "another leads");
      guest.say({ id: asked.id, result: methods[asked.method](p) });
    } catch (error) {
      refuse(asked.id, error.code ? error : new No(-32602, "params"));
    }
  };
  socket.on("data", (data) => {
    waiting = Buffer.concat([waiting, data]);
    if (Date.now() - second >= 1000) { count = 0; second = Date.now(); }
    for (let at; (at = waiting.indexOf(10)) >= 0; ) {
      const line = waiting.subarray(0, at);
      waiting = waiting.subarray(at + 1);
      if (++count > RATE) { refuse(null, new No(-32021, "too fast")); return socket.destroy(); }
      if (line.length > (guest.in ? FRAME : 65536)) { refuse(null, new No(-32020, "too large")); return socket.destroy(); }
      take(line.toString("utf8"));
    }
    if (waiting.length > (guest.in ? FRAME : 65536)) { refuse(null, new No(-32020, "too large")); socket.destroy(); }
  });
  socket.on("close", end);
  socket.on("error", () => {});
}

mkdirSync(folder, { recursive: true, mode: 0o700 });
writeFileSync(`${path}.token`, token, { mode: 0o600 });
process.umask(0o177);
createServer(meet).listen(path, () => {
  chmodSync(path, 0o600);
  console.log(path);
});
setInterval(() => { if (shown && Date.now() - heard > WATCH * 1000) shown = null; }, 100);
process.stdin.on("end", () => { rmSync(path, { force: true }); rmSync(`${path}.token`, { force: true }); process.exit(0); });
process.stdin.resume();
