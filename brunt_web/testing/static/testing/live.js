// A live instrument at the bench: the figure runs, the peak is held, the curve is drawn as it comes. A figure belongs
// to one pull of one specimen: nothing counts from before it was taken up, and nothing across lines that are missing.
import * as outbox from "../interface/js/outbox.js";
import { said } from "../interface/js/said.js";
import { form, root } from "./screen.js";
import { readLine } from "./instrument-line.js";
import { bridged, ownSerial } from "./wire.js";

let wire = null; // what is open: { close(), leave(), say(text) }
let address = "";
let specimen = "";
let points = []; // [seconds, value, travel] since this specimen was taken up
let peak = null;
let last = null; // the last value with its unit
let before = null; // the number and the instrument's own time of the last line
let arrived = 0;
let usual = 0; // milliseconds between arrivals
let ended = "";
let zero = 0;
let took = "";
let spoiled = ""; // why this pull gives no figure
let away = false;
let begins = false;

const panel = () => root.querySelector("[data-live]");
const part = (name) => panel()?.querySelector(`[data-live-${name}]`);
const units = () => JSON.parse(panel().dataset.units);
const holdsPeak = () => panel().dataset.mode === "peak";
// What goes into a field is written with a point whatever the workshop's way: 1,234 could be a thousand.
const shown = (value) =>
  Math.abs(value) >= 100 ? value.toFixed(1) : Math.abs(value) >= 10 ? value.toFixed(2) : value.toFixed(3);

// Another specimen at the bench: what was read belongs to the one before, and the instrument is taken up again.
export function attach() {
  if (!panel()) {
    close();
    return;
  }
  const here = `${form().dataset.code} ${form().getAttribute("action")}`;
  if (here === specimen) {
    show();
    return;
  }
  specimen = here;
  forget();
  if (wire) takeUp();
  show();
}

function forget() {
  points = [];
  peak = last = before = null;
  ended = took = spoiled = "";
  zero = 0;
}

function close() {
  wire?.leave();
  wire = null;
}

async function takeUp(over = false) {
  const box = panel().dataset;
  const isOwn = box.address.startsWith("browser:");
  if (wire && isOwn && address === box.address) return; // the port stays open; what it said before is forgotten
  wire?.close();
  address = box.address;
  says("Opening …");
  try {
    wire = isOwn
      ? await ownSerial(Number(address.slice(8)) || 9600, heard)
      : bridged(box, form().dataset.code, heard, over);
  } catch (problem) {
    wire = null;
    says(problem.name === "NotFoundError" ? "No port was chosen." : `Not opened: ${problem.message}`);
  }
  show();
}

const heard = {
  line(number, text) {
    if (before && number !== before.number + 1) miss();
    before = { number, at: before?.at ?? null };
    away = false;
    take(text);
  },
  status(text) {
    if (!spoiled && !ended) says(text);
  },
  away(sentence) {
    away = true;
    says(sentence);
  },
  lost(sentence) {
    wire = null;
    if (points.length && !ended) miss();
    says(spoiled && holdsPeak() ? `${sentence} ${spoiled}` : sentence);
    show();
  },
  lease(told) {
    if (told.mine) {
      away = false;
      offer(false);
      if (begins) {
        begins = false;
        wire?.say("pull");
      }
      return;
    }
    begins = false;
    if (points.length && !ended) miss();
    if (told.free) {
      close();
      says("It is free now; connect it.");
      offer(false);
      show();
      return;
    }
    const since = new Date(told.since * 1000).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
    says(`In use by ${told.who}${told.specimen ? ` for ${told.specimen}` : ""} since ${since}.`);
    offer(true);
  },
};

// Lines are missing: a peak or a fall seen over them would be nobody's.
function miss() {
  if (!points.length || ended || !panel()) return;
  const now = new Date().toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit" });
  points = [];
  peak = null;
  if (!holdsPeak()) return;
  spoiled = `Lines are missing before ${now}: this pull gives no figure. Begin another, or type what the display holds.`;
  says(spoiled);
}

const offer = (taken) => {
  if (part("over")) part("over").hidden = !taken;
};

// Another pull of the same specimen: the field is emptied, nothing of before counts.
function begin() {
  forget();
  fill("");
  begins = true;
  if (address.startsWith("browser:")) {
    begins = false;
    says("Begun.");
    return;
  }
  takeUp();
}

// One line: a quantity with its unit, or several parted by ";", a time among them.
function take(line) {
  if (!panel() || !line.trim() || line.startsWith("#")) return;
  const now = paced();
  const { value, travel, at } = readLine(line, units(), panel().dataset.dimension);
  if (!value) return;
  if (last && last.unit !== value.unit) {
    says(`The unit changed from ${last.unit} to ${value.unit}; begin again.`);
    return;
  }
  last = value;
  if (ended || spoiled) return;
  if (at !== null) ownTime(at);
  if (spoiled) return;
  keep([at ?? now / 1000, value.number, travel]);
  hold(value);
}

// When a line arrived, in ms, and how far apart they usually are.
function paced() {
  const now = performance.now();
  usual = arrived ? 0.9 * usual + 0.1 * (now - arrived) : 0;
  arrived = now;
  return now;
}

function keep(point) {
  points.push(point);
  if (points.length > 30000) points.splice(0, points.length - 30000);
}

// The instrument's own clock: where it runs back, or leaps, lines are missing whatever the wire says.
function ownTime(at) {
  const step = before.at === null ? 0 : at - before.at;
  const typical = points.length > 5 ? (points.at(-1)[0] - points[0][0]) / (points.length - 1) : Infinity;
  if (step < 0 || step > Math.max(10 * typical, 0.5)) miss();
  before.at = at;
}

// The peak is held; a fall to under six tenths of it, above the noise, is a break.
function hold(value) {
  if (!holdsPeak()) return;
  if (points.length <= 20) {
    zero = Math.max(zero, ...points.map((p) => Math.abs(p[1])));
    if (points.length === 20) zero = Math.max(...points.map((p) => Math.abs(p[1])));
  }
  if (peak === null || value.number > peak) peak = value.number;
  const floor = Math.max(zero * 8, 1e-9);
  const gone = points.slice(-5).every((p) => p[1] < peak * 0.6);
  if (peak > floor && points.length > 40 && gone) {
    ended = `${shown(peak)} ${value.unit}`;
    fill(ended);
    says(`It fell from ${said(ended)}: held as the peak.`);
  }
}

function fill(text) {
  const field = root.querySelector("[data-take-field]") ?? root.querySelector("[data-reading]");
  if (!field) return;
  field.value = text;
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.focus();
}

// What may be taken now; why not where nothing may.
function figure() {
  const ofPull = holdsPeak() && !root.querySelector("[data-take-field]");
  if (ofPull && ended) return { text: ended };
  if (ofPull && spoiled) return { why: spoiled };
  const old = performance.now() - arrived > Math.max(3000, 5 * usual);
  if (!last || away || !wire || old) return { why: "Nothing comes from the instrument now; no figure is taken." };
  const value = ofPull && peak !== null ? peak : last.number;
  return { text: `${shown(value)} ${last.unit}` };
}

function says(text) {
  if (part("says")) part("says").textContent = text;
}

function show() {
  if (!panel()) return;
  part("go").textContent = wire ? "Disconnect" : `Connect ${part("go").dataset.name}`;
  part("open").hidden = !wire && !points.length;
}

// A clock that is due takes the figure itself.
function clockTakes() {
  const field = root.querySelector("[data-take-field]");
  const due = root.querySelector("[data-timed].is-due");
  if (!field || !due || field.value || figure().why || took === field.dataset.due + field.dataset.loadStep) return;
  took = field.dataset.due + field.dataset.loadStep;
  fill(`${shown(last.number)} ${last.unit}`);
  root.querySelector("[data-take-now]")?.click();
}

// The curve goes with the entry, through the outbox: nothing is lost where the server is away.
export function curveGoes(code) {
  if (spoiled) return;
  const to = panel()?.dataset.curveTo;
  const drawn = points.filter((p) => p[2] !== null);
  if (!to || drawn.length < 20 || !last) return;
  const head = `displacement mm;force ${last.unit}`;
  const text = [head, ...drawn.map((p) => `${p[2]};${p[1]}`)].join("\n");
  const entry = outbox.lay(
    to,
    [
      ["key", crypto.randomUUID()],
      ["pasted", text],
      ["named", `live, ${drawn.length} readings`],
    ],
    code,
  );
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
    const [x, y] = [
      6 + ((at(p) - x0) / (x1 - x0 || 1)) * (width - 12),
      height - 6 - ((p[1] - y0) / (y1 - y0 || 1)) * (height - 12),
    ];
    if (i) pen.lineTo(x, y);
    else pen.moveTo(x, y);
  });
  pen.stroke();
}

root.addEventListener("click", (event) => {
  const on = (name) => event.target.closest(`[data-live-${name}]`);
  if (on("go")) {
    if (wire) {
      close();
      offer(false);
      show();
      says("Disconnected.");
      if (points.length && !ended) miss();
    } else takeUp();
  }
  if (on("over")) {
    forget();
    takeUp(true);
  }
  if (on("take")) {
    const { text, why } = figure();
    if (why) says(why);
    else {
      ended = holdsPeak() ? text : "";
      fill(text);
    }
  }
  if (on("begin")) begin();
});
addEventListener("pagehide", () => wire?.close());
attach();
