// The bench by keyboard: fields, single keys for outcome, place and mode, Enter stores and brings the next.
import * as ahead from "./ahead.js";
import * as clock from "./clock.js";
import * as drafts from "./drafts.js";
import * as keyboard from "./keyboard.js";
import * as onward from "./onward.js";
import * as outbox from "../interface/js/outbox.js";
import { countStages, keepQueue } from "./queue.js";
import { form, moveTo, root } from "./screen.js";
import * as typing from "./typeahead.js";
import { post } from "../interface/js/post.js";

const still = matchMedia("(prefers-reduced-motion: reduce)");
let sending = false;

const reading = () =>
  root.querySelector("[data-take-field]") ?? root.querySelector("[data-row]") ?? root.querySelector("[data-reading]");
const fields = () => [...root.querySelectorAll("[data-size]"), reading()].filter(Boolean);
const isText = (element) => element.matches?.("input:not([type=radio]), textarea, select");
const inCharge = () => root.querySelector("[data-take-field], [data-start-clock]");

function ready() {
  begun = 0;
  onward.nothingAnswered();
  ahead.fetchAfter(form(), onward.confirmed());
  if (drafts.restore(form())) form().dispatchEvent(new Event("change", { bubbles: true }));
  const first = wanted();
  first?.focus();
  first?.select?.();
  draw();
  spread();
  clock.restart();
  keepQueue();
  countStages();
  liven();
}

// What shows a live instrument is fetched where a rig has one.
let live = null;
async function liven() {
  if (live) live.attach();
  else if (root.querySelector("[data-live]")) live = await import("./live.js");
}

// What is asked for next: a reading that is due, an empty size, the reading; before a clock is started
// what can be typed already, else the button that starts it.
function wanted() {
  const due = root.querySelector("[data-take-field]");
  const free = [...root.querySelectorAll("[data-timed] [data-more]")].find((field) => !field.value.trim());
  const nextLoad = root.querySelector("[data-timed][data-elapsed] [data-start-clock]");
  return (
    due ??
    nextLoad ??
    fields().find((field) => !field.value.trim()) ??
    reading() ??
    free ??
    root.querySelector("[data-start-clock], [data-store]")
  );
}

// What the server said of each field goes beside that field.
function spread() {
  for (const note of root.querySelectorAll("#answer template[data-for]")) {
    const key = note.dataset.for;
    const field = root.querySelector(`#f-${key}`);
    if (!field) continue;
    root.querySelector(`#became-${key}`).textContent = note.dataset.became;
    root.querySelector(`#error-${key}`).textContent = note.dataset.error;
    field.setAttribute("aria-invalid", note.dataset.error ? "true" : "false");
  }
}

// A question about what was typed is brought into sight where the column scrolls, as far as the field stays.
function showAsked() {
  const box = root.querySelector(".note-box");
  const pane = root.querySelector(".readout-in");
  if (!box || getComputedStyle(pane).overflowY !== "auto") return;
  const frame = pane.getBoundingClientRect();
  const over = box.getBoundingClientRect().bottom + 8 - frame.bottom;
  const field = pane.contains(document.activeElement) ? document.activeElement.getBoundingClientRect().top : Infinity;
  if (over > 0) pane.scrollTop += Math.max(Math.min(over, field - frame.top - 6), 0);
}

// The drawing of a pulled bar follows outcome, place and load at once; the rest comes with the answer.
function draw() {
  if (still.matches)
    for (const svg of root.querySelectorAll("[data-drawing]")) {
      svg.setCurrentTime(9);
      svg.pauseAnimations();
    }
  const outcome = form().elements.outcome.value;
  root.querySelector("[data-reason]").hidden = outcome !== "void";
  const svg = root.querySelector("[data-whole]")?.closest("svg");
  if (!svg) return;
  const places = form().elements.place;
  const place = places?.value || "gauge";
  const parted = outcome === "broke" && reading()?.value.trim();
  svg.classList.toggle("is-parted", Boolean(parted));
  svg.classList.toggle("is-whole", !parted);
  svg.querySelectorAll("[data-halves]").forEach((g) => g.toggleAttribute("data-on", g.dataset.halves === place));
  svg
    .querySelector("[data-whole] polygon")
    .setAttribute("class", outcome === "held" || outcome === "limit" ? "d-held" : "d-bar");
  arrow(svg);
}

function arrow(svg) {
  const part = Number(root.querySelector("#answer")?.dataset.load ?? 0);
  const length = 30 + 130 * part;
  svg.querySelector("[data-arrow]").setAttribute("d", part > 0 ? `M150,${200 + length / 2} V${200 - length / 2}` : "");
  svg
    .querySelector("[data-head]")
    .setAttribute("d", part > 0 ? `M142,${210 - length / 2} l8,-11 8,11 M142,${190 + length / 2} l8,11 8,-11` : "");
  svg.querySelector("[data-loadtext]").textContent =
    part > 0 ? (root.querySelector("[id^=became-force]")?.textContent.replace("= ", "").split(" —")[0] ?? "") : "";
  svg.querySelector("[data-partof]").textContent = part > 0 ? `${Math.round(part * 100)} % of the rig` : "";
}

// One thing at a time is asked of the server that may bring another specimen; keys pressed meanwhile wait for it.
async function alone(act) {
  if (sending) return;
  sending = true;
  typing.hold();
  refuse("");
  try {
    await act();
  } finally {
    sending = false;
    root.querySelector("[data-store]")?.removeAttribute("disabled");
    typing.release();
  }
}

// Every entry is laid in the outbox first, then sent; it leaves the outbox when the server has it.
async function send(entry, moveOn) {
  root.querySelector("[data-store]")?.setAttribute("disabled", "");
  try {
    await receive(await outbox.send(entry, "bench"), entry, moveOn);
  } catch {
    outbox.wait(entry.key);
    outbox.flush();
    if (!moveOn || !onwardAlone())
      keptHere("The server cannot be reached. What you typed is kept and sent when it answers.");
  }
}

const deliver = (entry, moveOn) => alone(() => send(entry, moveOn));

// The specimen in hand stays on the screen, its entry in the outbox: what is typed ahead waits too.
function keptHere(sentence) {
  typing.stuck(false);
  refuse(sentence);
}

function store() {
  const { key } = form().elements;
  if (outbox.holds(key.value)) {
    refuse("This entry is kept in this browser and sent as soon as the server answers.");
    return;
  }
  alone(async () => {
    form().elements.typed_for.value = typedFor();
    live?.curveGoes(form().dataset.code);
    const entry = outbox.put(form(), form().dataset.code);
    drafts.drop(form());
    if (await onward.goAhead(entry)) {
      typing.moved();
      ready();
      return;
    }
    await onward.confirmed();
    await send(entry, true);
  });
}

// Tested now, read later.
function owe() {
  if (sending) return;
  form().elements.reading_outstanding.value = "1";
  const entry = outbox.put(form(), form().dataset.code);
  form().elements.reading_outstanding.value = "";
  drafts.drop(form());
  deliver(entry, true);
}

// A timed reading counts as taken when its first character was typed, not when Enter was pressed.
let begun = 0;
const isTimed = (field) => field.matches?.("[data-take-field], [data-timed-field]");
const typedFor = () => (begun ? ((performance.now() - begun) / 1000).toFixed(3) : "0");
root.addEventListener("input", (event) => {
  if (!isTimed(event.target)) return;
  if (!event.target.value.trim()) begun = 0;
  else if (!begun) begun = typing.playedAt() ?? performance.now();
});

// An answer that does not say what became of the entry: it waits in this browser. True where it was one.
function waitsHere(answer, entry, moveOn) {
  const failed = answer.status >= 500 || [403, 404].includes(answer.status);
  if (!answer.redirected && answer.status !== 401 && !failed) return false;
  outbox.wait(entry.key);
  if (answer.redirected) {
    leave(answer.url);
    return true;
  }
  if (failed) outbox.flush();
  const why = failed ? "The server could not take this; it is kept" : "You are signed out; this is kept";
  if (!moveOn || !onwardAlone()) keptHere(`${why} in this browser.`);
  return true;
}

async function receive(answer, entry, moveOn) {
  const address = answer.headers.get("X-Address");
  if (waitsHere(answer, entry, moveOn)) return;
  outbox.drop(entry.key);
  if (answer.status === 204) {
    leave(address);
    return;
  }
  if (answer.status !== 200 && answer.status !== 422) {
    keptHere("The server refused this; reload the page and try again.");
    return;
  }
  if (answer.status === 422) drafts.keep(form());
  await swap(answer, address);
  if (answer.status === 422) askAgain();
}

// The server has a question or an objection: the answer comes first, what was typed ahead after it.
function askAgain() {
  const question = root.querySelector("[data-keep]");
  (question ?? root.querySelector("[aria-invalid=true]"))?.focus();
  typing.stuck(Boolean(question));
}

// To another page; what was typed ahead and has no field there is told on it.
function leave(address) {
  const left = typing.leftOver();
  if (left) outbox.stray(left);
  location.assign(address);
}

async function swap(answer, address) {
  root.innerHTML = await answer.text();
  window.htmx?.process(root);
  if (answer.status === 200) typing.moved();
  if (answer.status === 200 && address && address !== location.pathname) moveTo(address);
  ready();
}

// No server: the queue on the screen says who is next; the form is the same, its fields are emptied.
function onwardAlone() {
  const link = root
    .querySelector("[data-code][aria-current] ")
    ?.closest("li")
    .nextElementSibling?.querySelector("[data-waits]");
  link?.closest("li").removeAttribute("hidden");
  if (!link || root.querySelector("[data-timed]")) return false;
  const { code, condition } = link.dataset;
  root.querySelectorAll(".queue [aria-current]").forEach((a) => {
    a.removeAttribute("aria-current");
    a.removeAttribute("data-waits");
  });
  link.setAttribute("aria-current", "true");
  const address = link.getAttribute("href");
  form().setAttribute("action", address);
  form().setAttribute("hx-post", `${address}try/`);
  form().dataset.code = code;
  form().dataset.base = address.replace(/bench\/$/, "");
  form().elements.key.value = crypto.randomUUID();
  form().elements.specimen.value = link.dataset.specimen;
  for (const field of root.querySelectorAll(
    "[data-reading], [data-size], [data-more], #note, #reason, #untimely, #noted_speed, [name=kept], [name=changed]",
  ))
    field.value = "";
  root.querySelectorAll("[name=place], [name=mode], [name=ticked]").forEach((radio) => {
    radio.checked = false;
  });
  root.querySelector("[name=outcome]").checked = true;
  root.querySelector("[data-code-here]").textContent = code;
  root.querySelector("[data-condition-here]").textContent = condition;
  root.querySelector("#answer").replaceChildren();
  window.htmx?.process(form());
  typing.moved();
  ready();
  return true;
}

function refuse(sentence) {
  const place = root.querySelector("[data-refused]");
  if (place) place.textContent = sentence;
}

// A word of a scale: pressed, or by its number.
function judge(button) {
  const field = reading();
  field.value = button.dataset.grade;
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.blur();
}

function press(letter) {
  const grade = root.querySelector(`[data-grade-key="${CSS.escape(letter)}"]`);
  if (grade) {
    judge(grade);
    return true;
  }
  return choose(root.querySelector(`[data-letter="${CSS.escape(letter)}"]`));
}

function choose(radio) {
  if (!radio) return false;
  radio.checked = true;
  radio.dispatchEvent(new Event("change", { bubbles: true }));
  if (radio.value === "void") {
    draw();
    root.querySelector("#reason").focus();
  }
  return true;
}

// With Alt the keys act while a field is being typed in: Alt and a digit names the failure mode (a digit alone
// could be a reading), Alt and a letter the outcome or location, Alt and Enter saves a questioned value as typed.
function pressedWithAlt(event) {
  if (event.key === "Enter") {
    const keep = root.querySelector("[data-keep]");
    keep?.click();
    return Boolean(keep);
  }
  const { digit, letter } = keyboard.withAlt(event);
  if (digit) return choose(root.querySelector(`[data-digit="${digit}"]`));
  return Boolean(letter) && choose(root.querySelector(`[data-letter="${letter}"]`));
}

// A timed reading: taken now, at the time the key was pressed.
function take() {
  const field = root.querySelector("[data-take-field]");
  const timed = root.querySelector("[data-timed]");
  if (!field.value.trim()) {
    root.querySelector("#take-error").textContent = "Type what the dial shows.";
    return;
  }
  const data = {
    key: crypto.randomUUID(),
    input: field.dataset.key,
    due: field.dataset.due,
    load_step: field.dataset.loadStep,
    text: field.value,
    kept: field.dataset.askedText ?? "",
    specimen: form().elements.specimen.value,
    typed_for: typedFor(),
    read_at: root.querySelector("[data-take-at]")?.value ?? "",
  };
  const was = begun;
  deliver(outbox.lay(timed.dataset.take, Object.entries(data), form().dataset.code), false).then(() => {
    if (root.querySelector("[data-asked-text]")) begun = was;
  });
}

// A reading that was missed is given up; pressed again in the list, it is wanted again.
function passOver(button) {
  const field = root.querySelector("[data-take-field]");
  const data = {
    input: button.dataset.key ?? field.dataset.key,
    load_step: button.dataset.loadStep ?? field.dataset.loadStep,
    due: button.dataset.pass,
  };
  request(root.querySelector("[data-timed]").dataset.passUrl, data);
}

function startClock() {
  const button = root.querySelector("[data-start-clock]");
  if (!button) return false;
  const url = button.closest("[data-start]").dataset.start;
  const data = {
    key: crypto.randomUUID(),
    load_step: button.dataset.loadStep ?? "",
    specimen: form().elements.specimen.value,
    untimely: form().elements.untimely?.value ?? "",
  };
  drafts.keep(form());
  deliver(outbox.lay(url, Object.entries(data), form().dataset.code), false);
  return true;
}

// One more specimen of this condition, offered where one is a suspected outlier or void.
async function another() {
  try {
    const answer = await post(`/specimens/${form().dataset.code}/another/`, {}, { part: "bench" });
    if (answer.ok) root.querySelector("[data-told]").textContent = await answer.text();
  } catch {
    refuse("The server cannot be reached; nothing was added.");
  }
}

function request(url, data = {}) {
  return alone(async () => {
    try {
      const answer = await post(url, data, { part: "bench" });
      if (answer.status === 200 || answer.status === 422) await swap(answer, answer.headers.get("X-Address"));
      else if (answer.status === 204) leave(answer.headers.get("X-Address"));
    } catch {
      refuse("The server cannot be reached; nothing was changed.");
    }
  });
}

async function undo() {
  await onward.confirmed();
  const timed = root.querySelector("[data-timed][data-elapsed]");
  if (timed) request(timed.dataset.undoTake);
  else root.querySelector("[data-undo]").click();
}

function addRow(field) {
  const rows = root.querySelector("[data-reading]");
  rows.value = [rows.value.trim().replace(/;$/, ""), field.value.trim()].filter(Boolean).join("; ");
  field.value = "";
  rows.dispatchEvent(new Event("input", { bubbles: true }));
  return true;
}

const AT = [
  ["control", "textarea, button, a, summary, [data-of-day]"],
  ["figure", "[data-take-field], [data-take-at]"],
  ["row", "[data-row]"],
  ["size", "[data-size]"],
  ["timed", "[data-timed] [data-more]"],
];

/** What has the focus, as the keyboard calls it. @returns {any} */
function focused(here) {
  const found = AT.find(([, selector]) => here?.matches(selector))?.[0];
  return found ?? (fields().includes(here) || isText(here) ? "field" : "elsewhere");
}

function enter(event) {
  /** @type {any} */
  const here = document.activeElement;
  if (event.repeat) {
    event.preventDefault();
    return;
  }
  const does = keyboard.enterDoes({
    at: focused(here),
    typed: Boolean(here?.value?.trim()),
    more: Boolean(nextField(here)),
    moreTimed: Boolean(nextTimedField(here)),
    clock: Boolean(inCharge() && root.querySelector("[data-timed]") && !isVoid()),
    question: asksSomething(),
  });
  if (does === "leave to the browser") return;
  event.preventDefault();
  DOES[does](here);
}

const DOES = {
  "take the reading": take,
  "add the row": addRow,
  stay: () => {},
  "go to the next field": (here) => nextField(here).focus(),
  "go to the next timed reading": (here) => nextTimedField(here).focus(),
  "start the clock": startClock,
  "go to the question": () => {
    root.querySelector("[data-keep]").focus();
    typing.stuck(true);
  },
  store: () => store(),
};

// The next field that has nothing in it; none where nothing was read.
function nextField(here) {
  const nothingRead = ["void", "zero"].includes(form().querySelector("[name=outcome]:checked")?.dataset.bound);
  const row = root.querySelector("[data-row]");
  return nothingRead ? null : fields().find((field) => field !== here && field !== row && !field.value.trim());
}

function nextTimedField(here) {
  const after = (field) => here?.compareDocumentPosition(field) & 4 && !field.value.trim();
  return [...root.querySelectorAll("[data-timed] [data-more]")].find(after);
}

const isVoid = () => form().elements.outcome.value === "void";

function asksSomething() {
  const ask = root.querySelector("[data-asked]");
  return Boolean(ask && onward.isCurrent() && form().elements.kept.value !== ask.dataset.asked && !isVoid());
}

const last = (side) =>
  [...root.querySelectorAll(`${side} :is(a[href], button, input, select, textarea, summary)`)]
    .filter((each) => each.checkVisibility() && !each.disabled && each.type !== "hidden")
    .at(-1);

// Tab goes through every field in the order in which it is filled in, then to the note and to Save; fields that are
// folded away are opened on the way. Elsewhere the browser's own order holds.
function stops() {
  const late = [
    ...root.querySelectorAll(".readout [data-more], .readout #note, #untimely, [data-reason]:not([hidden]) #reason"),
  ];
  const order = [
    ...root.querySelectorAll("[data-take-field]"),
    ...fields(),
    ...late.filter((field) => field.id !== "note"),
    ...late.filter((field) => field.id === "note"),
  ];
  return [...new Set(order), root.querySelector("[data-store]") ?? root.querySelector("[data-take-now]")].filter(
    (each) => each && !each.disabled,
  );
}

function tab(event) {
  const order = stops();
  const at = order.indexOf(event.target);
  let to = at < 0 ? null : order[at + (event.shiftKey ? -1 : 1)];
  // Round and round: behind the last button come the choices of the drawing's side, then the fields again.
  if (!to && !event.shiftKey && event.target === last(".readout")) to = root.querySelector("[name=outcome]:checked");
  if (!to && !event.shiftKey && event.target === last(".rigview")) [to] = order;
  if (!to) return;
  event.preventDefault();
  to.closest("details:not([open])")?.setAttribute("open", "");
  to.focus();
  to.select?.();
}

document.addEventListener("keydown", (event) => {
  const where = { dialog: Boolean(event.target.closest("[data-line], dialog")), text: isText(event.target) };
  const is = keyboard.keyIs(event, where);
  if (is === "with Alt" && pressedWithAlt(event)) event.preventDefault();
  else if (is === "Enter") enter(event);
  else if (is === "Tab") tab(event);
  else if (is === "leave the field") event.target.blur();
  else if (is === "single" && single(event.key.toLowerCase())) event.preventDefault();
});

// A single key outside the fields: true where it did something that the browser must not do, too.
const SINGLE = {
  "!": () => {
    root.querySelector("#untimely")?.focus();
    return Boolean(root.querySelector("#untimely"));
  },
  u: () => void undo(),
  s: () => void request(form().dataset.skipTo),
  t: () => startClock() || press("t"),
  a: () => {
    if (!root.querySelector("[data-another]") || root.querySelector("[data-letter=a]")) return press("a");
    another();
    return false;
  },
};

function single(key) {
  if (SINGLE[key]) return SINGLE[key]();
  return key.length === 1 && key !== " " && press(key);
}

root.addEventListener("submit", (event) => {
  if (event.submitter?.matches("[data-undo]")) return;
  event.preventDefault();
  store();
});

// Cautions are hidden without leaving what is being typed. Their button belongs to a form of its own:
// the answering form would send its next question to the address of the button pressed last.
document.getElementById("put-away").addEventListener("submit", (event) => {
  event.preventDefault();
  putAway(event.submitter);
});

async function putAway(button) {
  (fields().find((field) => !field.value.trim()) ?? reading())?.focus();
  try {
    const answer = await post(button.getAttribute("formaction"));
    if (answer.ok) button.closest("section").remove();
  } catch {
    refuse("The server cannot be reached; the cautions stay.");
  }
}
root.addEventListener("change", draw);
root.addEventListener("input", draw);
for (const kind of ["input", "change"]) root.addEventListener(kind, () => drafts.keep(form()));
root.addEventListener("click", (event) => {
  const on = (selector) => event.target.closest(selector);
  const zone = on("[data-zone]");
  if (zone) {
    const radio = root.querySelector(`[name=place][value="${zone.dataset.zone}"]`);
    radio.checked = true;
    radio.dispatchEvent(new Event("change", { bubbles: true }));
  }
  const instead = on("[data-instead]");
  if (instead) change(instead);
  if (on("[data-keep]")) {
    form().elements.kept.value = root.querySelector("[data-asked]").dataset.asked;
    store();
  }
  if (on("[data-take-now]")) take();
  if (on("[data-grade]")) judge(on("[data-grade]"));
  if (on("[data-owe]")) owe();
  if (on("[data-pass]")) passOver(on("[data-pass]"));
  if (on("[data-another]")) another();
  if (on("[data-skip]")) request(form().dataset.skipTo);
  if (on("[data-start-clock]")) startClock();
});

// The unit is changed because the tester says so; what was asked and typed goes with the entry.
function change(button) {
  const field = root.querySelector(`#f-${button.dataset.field}`);
  const log = JSON.parse(form().elements.changed.value || "[]");
  log.push({ asked: root.querySelector("[data-asked]").dataset.asked, was: field.value, now: button.dataset.instead });
  form().elements.changed.value = JSON.stringify(log);
  field.value = button.dataset.instead;
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.focus();
}

const backToField = () => {
  const field = reading() ?? fields()[0];
  field?.focus();
  field?.select?.();
};
root.addEventListener("brunt:back-to-field", backToField);

// An answer that comes while its question has the focus keeps it there; one without a question ends it.
function keepAsking() {
  if (!typing.isAsking() || sending) return;
  const question = root.querySelector("[data-keep]");
  if (question) question.focus();
  else {
    typing.answered();
    if (document.activeElement === document.body) backToField();
  }
}

document.addEventListener("htmx:afterSettle", () => {
  spread();
  draw();
  showAsked();
  keepAsking();
});
window.addEventListener("popstate", () => location.reload());

document.addEventListener("brunt:reading", (event) => {
  const field = reading();
  if (!field) return;
  field.value = event.detail.value;
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.focus();
  event.preventDefault();
});
document.addEventListener("brunt:note", (event) => {
  const note = root.querySelector("#note");
  note.closest("details").open = true;
  note.value = [note.value, event.detail.value].filter(Boolean).join("\n");
  event.preventDefault();
});

ready();
