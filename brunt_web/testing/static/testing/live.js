// A live instrument at the bench: the figure runs, the peak is held, the curve is drawn as it comes. Lines come
// through the bridge or the browser's own serial port; what was missed while cut off is sent again.
import * as outbox from "../interface/js/outbox.js";
import { said } from "../interface/js/said.js";
import { form, root } from "./screen.js";

const KEY = "brunt-live";
let wire = null; // what is open: { close(), say(text) }
let address = "";
let points = []; // [seconds, value, travel] since this specimen was taken up
let peak = null;
let last = null;
let ended = "";
let zero = 0;
let took = "";

const panel = () => root.querySelector("[data-live]");
const part = (name) => panel()?.querySelector(`[data-live-${name}]`);
const units = () => JSON.parse(panel().dataset.units);
// What goes into a field is written with a point whatever the workshop's way: 1,234 could be a thousand.
const shown = (value) => (Math.abs(value) >= 100 ? value.toFixed(1) : Math.abs(value) >= 10 ? value.toFixed(2) : value.toFixed(3));

// Another specimen stands at the bench: what was read belongs to the one before.
export function attach() {
  points = [];
  peak = last = null;
  ended = took = "";
  if (!panel()) { close(); return; }
  if (wire && address !== panel().dataset.address) close();
  show();
}

function close() {
  wire?.close();
  wire = null;
}

async function open() {
  const box = panel().dataset;
  address = box.address;
  says("Opening …");
  try {
    wire = address.startsWith("browser:") ? await ownSerial(Number(address.slice(8)) || 9600) : bridged(box);
    show();
  } catch (problem) {
    wire = null;
    says(problem.name === "NotFoundError" ? "No port was chosen." : `Not opened: ${problem.message}`);
  }
}

function bridged(box) {
  const base = box.at ?? `${location.protocol}//${location.hostname}:${box.port}`;
  const since = sessionStorage.getItem(KEY + address) ?? "";
  const source = new EventSource(`${base}/stream?token=${encodeURIComponent(box.token)}&since=${since}`);
  source.onmessage = (event) => {
    try { sessionStorage.setItem(KEY + address, event.lastEventId); } catch { /* only what was missed over a reload is lost */ }
    for (const line of event.data.split("\n")) take(line);
  };
  source.addEventListener("status", (event) => says(event.data));
  source.onerror = () => says("Cut off; what comes meanwhile is kept and sent when it is back.");
  return { close: () => source.close(), say: (text) => fetch(`${base}/say?token=${encodeURIComponent(box.token)}&line=${encodeURIComponent(text)}`, { method: "POST" }).catch(() => says("The bridge cannot be reached.")) };
}

async function ownSerial(baudRate) {
  if (!navigator.serial) throw new Error("this browser has no serial ports; use the bridge");
  const port = await navigator.serial.requestPort();
  await port.open({ baudRate });
  let going = true;
  const reader = port.readable.getReader();
  const text = new TextDecoder();
  let held = "";
  (async () => {
    try {
      while (going) {
        const { value, done } = await reader.read();
        if (done) break;
        held += text.decode(value, { stream: true });
        const lines = held.split(/\r?\n/);
        held = lines.pop();
        lines.forEach(take);
      }
      says("The port is closed.");
    } catch { says("The port was lost; connect it again. What was read stands."); }
    wire = null;
    show();
  })();
  return { close: () => { going = false; reader.cancel().finally(() => port.close()); }, say: async (line) => { const writer = port.writable.getWriter(); await writer.write(new TextEncoder().encode(`${line}\n`)); writer.releaseLock(); } };
}

// One line: a quantity with its unit, or several parted by ";", a time among them.
function take(line) {
  if (!panel() || !line.trim() || line.startsWith("#")) return;
  const known = units();
  let value = null;
  let travel = null;
  let at = performance.now() / 1000;
  for (const piece of line.split(";")) {
    const found = piece.trim().match(/^([-+−]?[\d.,]+(?:[eE][-+]?\d+)?)\s*(\S.*)?$/);
    if (!found) continue;
    const number = Number(found[1].replace("−", "-").replace(",", "."));
    const unit = (found[2] ?? "").trim();
    const kind = known[unit];
    if (!Number.isFinite(number)) continue;
    if (kind === panel().dataset.dimension && value === null) value = { number, unit };
    else if (kind === "time") at = number;
    else if (kind === "length" || kind === "angle") travel = number;
  }
  if (!value) return;
  if (last && last.unit !== value.unit) { says(`The unit changed from ${last.unit} to ${value.unit}; begin again.`); return; }
  last = value;
  if (ended) return;
  points.push([at, value.number, travel]);
  if (points.length > 30000) points.splice(0, points.length - 30000);
  hold(value);
}

// The peak is held; a fall to under six tenths of it, above the noise, is a break.
function hold(value) {
  if (panel().dataset.mode !== "peak") return;
  if (points.length <= 20) { zero = Math.max(zero, ...points.map((p) => Math.abs(p[1]))); if (points.length === 20) zero = Math.max(...points.map((p) => Math.abs(p[1]))); }
  if (peak === null || value.number > peak) peak = value.number;
  const floor = Math.max(zero * 8, 1e-9);
  const gone = points.slice(-5).every((p) => p[1] < peak * 0.6);
  if (peak > floor && points.length > 40 && gone) { ended = `${shown(peak)} ${value.unit}`; fill(ended); says(`It fell from ${said(ended)}: held as the peak.`); }
}

function fill(text) {
  const field = root.querySelector("[data-take-field]") ?? root.querySelector("[data-reading]");
  if (!field) return;
  field.value = text;
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.focus();
}

function figure() {
  if (!last) return "";
  const value = panel().dataset.mode === "peak" && peak !== null && !root.querySelector("[data-take-field]") ? peak : last.number;
  return `${shown(value)} ${last.unit}`;
}

function says(text) { if (part("says")) part("says").textContent = text; }

function show() {
  if (!panel()) return;
  part("go").textContent = wire ? "Disconnect" : `Connect ${part("go").dataset.name}`;
  part("open").hidden = !wire && !points.length;
}

// A clock that is due takes the figure itself.
function clockTakes() {
  const field = root.querySelector("[data-take-field]");
  const due = root.querySelector("[data-timed].is-due");
  if (!wire || !last || !field || !due || field.value || took === field.dataset.due + field.dataset.rung) return;
  took = field.dataset.due + field.dataset.rung;
  fill(`${shown(last.number)} ${last.unit}`);
  root.querySelector("[data-take-now]")?.click();
}

// The curve goes with the entry, through the outbox: nothing is lost where the server is away.
export function curveGoes(code) {
  const to = panel()?.dataset.curveTo;
  const drawn = points.filter((p) => p[2] !== null);
  if (!to || drawn.length < 20 || !last) return;
  const head = `displacement mm;force ${last.unit}`;
  const text = [head, ...drawn.map((p) => `${p[2]};${p[1]}`)].join("\n");
  const entry = outbox.lay(to, [["key", crypto.randomUUID()], ["pasted", text], ["named", `live, ${drawn.length} readings`]], code);
  outbox.wait(entry.key);
  outbox.flush();
}

function paint() {
  const canvas = part("line");
  if (canvas && last) {
    part("now").textContent = said(`${shown(last.number)} ${last.unit}`);
    if (part("peak")) part("peak").textContent = peak === null ? "–" : said(`${shown(peak)} ${last.unit}`);
    line(canvas);
  }
  clockTakes();
}
setInterval(paint, 50);

function line(canvas) {
  const pen = canvas.getContext("2d");
  const { width, height } = canvas;
  pen.clearRect(0, 0, width, height);
  if (points.length < 2) return;
  const byTravel = points.filter((p) => p[2] !== null).length > points.length / 2;
  const at = (p) => (byTravel ? p[2] : p[0]);
  const every = Math.max(1, Math.floor(points.length / 1200));
  const drawn = points.filter((p, i) => (i % every === 0 || p[1] === peak) && at(p) !== null);
  const [x0, x1] = [Math.min(...drawn.map(at)), Math.max(...drawn.map(at))];
  const y1 = Math.max(...drawn.map((p) => p[1]), 1e-9);
  const y0 = Math.min(0, ...drawn.map((p) => p[1]));
  const ink = getComputedStyle(canvas).color;
  pen.strokeStyle = ink;
  pen.lineWidth = 2.5;
  pen.beginPath();
  drawn.forEach((p, i) => {
    const [x, y] = [6 + ((at(p) - x0) / (x1 - x0 || 1)) * (width - 12), height - 6 - ((p[1] - y0) / (y1 - y0 || 1)) * (height - 12)];
    if (i) pen.lineTo(x, y); else pen.moveTo(x, y);
  });
  pen.stroke();
}

root.addEventListener("click", (event) => {
  if (event.target.closest("[data-live-go]")) { if (wire) { close(); show(); says("Disconnected; what was read stands."); } else open(); }
  if (event.target.closest("[data-live-take]") && figure()) { ended = figure(); fill(ended); }
  if (event.target.closest("[data-live-pull]")) { attach(); wire?.say("pull"); }
});
attach();
