// The outbox: every entry stays in this browser until the server has confirmed it, and arrives once.
import { typedAs } from "./entries.js";
import { serverNow, since, stamp } from "./moment.js";
import { post } from "./post.js";

const KEY = "brunt-outbox";
const STRAY = "brunt-typed-ahead";
const box = document.getElementById("outbox");
const user = box.dataset.user;
let busy = false;

const all = () => {
  if (held) return held;
  try {
    return JSON.parse(localStorage.getItem(KEY)) ?? [];
  } catch {
    return [];
  }
};
let held = null; // what a full or forbidden store would not take: it stands in this page alone
const keep = (entries) => {
  try {
    localStorage.setItem(KEY, JSON.stringify(entries));
    held = null;
  } catch {
    held = entries;
  }
};
const mine = () => all().filter((entry) => entry.user === user);

export function put(form, code) {
  const fields = [...new FormData(form)].filter(
    ([name, value]) => name !== "csrfmiddlewaretoken" && typeof value === "string",
  );
  return lay(form.getAttribute("action"), fields, code);
}

export function lay(url, fields, code) {
  const key = fields.find(([name]) => name === "key")?.[1];
  const { workshop, called } = document.body.dataset;
  const named = fields.some(([name]) => name === "in_workshop") ? fields : [...fields, ["in_workshop", workshop]];
  const entry = { key, url, fields: named, code, user, called, ...stamp(), sent: false };
  keep([...all().filter((other) => other.key !== key), entry]);
  return entry;
}

// Whether an entry of this key waits to be sent.
export const holds = (key) => mine().some((entry) => entry.key === key && entry.waits && !entry.refused);

export function drop(key) {
  keep(all().filter((entry) => entry.key !== key));
  show();
}

// What was typed and found no field any more is told on the next page, until it is read.
export function stray(text) {
  try {
    sessionStorage.setItem(STRAY, text);
  } catch {
    /* without a store it was on the screen before */
  }
}

// The device's clock was turned while an entry waited: when it was made, only a person can say.
class Doubt extends Error {
  constructor(guess) {
    super("When was it tested?");
    this.guess = guess;
  }
}

export async function send(entry, part) {
  const body = new URLSearchParams(entry.fields);
  const { age, guess } = entry.told ? { age: (await serverNow()) - entry.told } : await since(entry);
  if (guess !== undefined) throw new Doubt(guess);
  body.set("age", (Math.max(age, 0) / 1000).toFixed(3));
  const shop = entry.fields.find(([name]) => name === "in_workshop")?.[1];
  return post(entry.url, body, { part, keepalive: true, headers: shop ? { "X-Workshop": shop } : {} });
}

// An entry that takes long to be confirmed: the screen says that it is on its way.
export function late(key) {
  keep(all().map((entry) => (entry.key === key ? { ...entry, late: true } : entry)));
  show();
}

// An entry that could not be sent waits here; the screen says so.
export function wait(key) {
  keep(all().map((entry) => (entry.key === key ? { ...entry, waits: true } : entry)));
  show();
}

// What the server will not take: its sentence, and the question where it only asks.
export async function refuse(key, answer) {
  const said = typeof answer === "string" ? { refused: answer } : await objection(answer);
  keep(all().map((entry) => (entry.key === key ? { ...entry, ...said } : entry)));
  show();
}

function doubtful(key, guess) {
  const refused = "This device’s clock was changed while the entry waited. Enter the time of the test.";
  keep(all().map((entry) => (entry.key === key ? { ...entry, refused, guess } : entry)));
  show();
}

async function objection(answer) {
  const question = decodeURIComponent(answer.headers.get("X-Question") ?? "");
  return { refused: await answer.text(), question };
}

// What the server says of an entry that was sent: stored, refused with its sentence, set aside because
// it cannot take it, or not there at all, so that the rest waits too.
async function judge(answer) {
  if (answer.redirected && answer.url.includes("sign-in")) return { stop: true, more: "Sign in again to store them." };
  if (answer.ok) return { stored: true };
  if (answer.status === 422 || answer.status === 409) return { refused: answer };
  if (answer.status === 401) return { stop: true, more: "Sign in again to store them." };
  if (answer.status === 403) return { stop: true, more: "Reload this page to store them." };
  if ([502, 503, 504, 507].includes(answer.status)) return { stop: true };
  return {
    refused:
      answer.status === 404
        ? "There is no such specimen any more."
        : `The server could not take it (${answer.status}).`,
  };
}

export async function flush() {
  if (busy) return;
  busy = true;
  let more = "";
  try {
    for (const entry of mine().filter((one) => one.waits && !one.refused)) {
      let said;
      try {
        said = await judge(await send(entry, "outbox"));
      } catch (problem) {
        if (!(problem instanceof Doubt)) throw problem;
        doubtful(entry.key, problem.guess);
        continue;
      }
      if (said.stop) {
        more = said.more ?? "";
        break;
      }
      if (said.stored) drop(entry.key);
      else await refuse(entry.key, said.refused);
    }
  } catch {
    /* the server is not there yet; the next turn tries again */
  } finally {
    busy = false;
  }
  show(more);
}

// An entry that was set aside is sent once more, with the answer to what was asked about it.
function again(key, answered) {
  const sent = (entry) =>
    answered ? [...entry.fields.filter(([name]) => name !== "kept"), ["kept", answered]] : entry.fields;
  keep(
    all().map((entry) =>
      entry.key === key ? { ...entry, fields: sent(entry), refused: "", question: "", waits: true } : entry,
    ),
  );
  flush();
}

// The time an entry was made, as its maker says it.
function whenDone(entry) {
  const field = document.createElement("input");
  field.type = "datetime-local";
  field.className = "plain-input";
  field.setAttribute("aria-label", `Time of the test of ${entry.code}`);
  field.value = local(entry.guess);
  const save = document.createElement("button");
  save.type = "button";
  save.textContent = "Save with this time";
  save.addEventListener("click", () => {
    const told = new Date(field.value).getTime();
    if (!Number.isFinite(told)) return;
    field.blur();
    keep(
      all().map((one) =>
        one.key === entry.key
          ? {
              ...one,
              told: Math.abs(told - entry.guess) < 60000 ? entry.guess : told,
              refused: "",
              guess: 0,
              waits: true,
            }
          : one,
      ),
    );
    flush();
  });
  return [field, " ", save];
}

function local(time) {
  const at = new Date(time);
  return new Date(time - at.getTimezoneOffset() * 60000).toISOString().slice(0, 16);
}

// An entry by its specimen, and by its workshop where that is another than the page's.
const named = (entry) =>
  entry.called && entry.called !== document.body.dataset.called ? `${entry.code} (${entry.called})` : entry.code;

function show(more = "") {
  // What somebody is typing here stays until they are done.
  if (document.activeElement?.matches("input") && box.contains(document.activeElement)) return;
  const waiting = mine().filter((entry) => entry.waits && !entry.refused);
  const onTheWay = mine().filter((entry) => entry.late && !entry.waits && !entry.refused);
  const refused = mine().filter((entry) => entry.refused);
  box.hidden = !(held?.length || waiting.length + onTheWay.length + refused.length);
  box.replaceChildren();
  if (onTheWay.length)
    line(`Being stored: ${onTheWay.map((e) => e.code).join(", ")}. Kept in this browser until the server has it.`);
  if (held?.some((entry) => entry.user === user))
    line(
      "This browser's store is full or forbidden: what is not stored yet stands in this page alone. Stay on it until the server has it, or write it down.",
    );
  if (waiting.length)
    line(
      `Not saved yet: ${waiting.map(named).join(", ")}. ${waiting.length === 1 ? "It is" : "They are"} kept in this browser and sent as soon as the server answers. ${more}`,
    );
  refused.forEach(tellRefused);
  tellStray();
}

function button(text, act) {
  const made = document.createElement("button");
  made.type = "button";
  made.textContent = text;
  made.addEventListener("click", act);
  return made;
}

// Why the server refused an entry, and what may be done with it.
function tellRefused(entry) {
  const text = line(`${named(entry)} was not saved: ${entry.refused} It was typed as ${typedAs(entry)}. `);
  const open = document.createElement("a");
  open.href = `/specimens/${entry.code}/`;
  open.textContent = "Open it";
  if (entry.guess) text.append(...whenDone(entry), " ");
  if (entry.question)
    text.append(
      button("Save as typed", () => again(entry.key, entry.question)),
      " ",
    );
  const retry = entry.guess ? [] : [button("Send it again", () => again(entry.key)), " "];
  text.append(
    open,
    " ",
    ...retry,
    button("Discard this entry", () => drop(entry.key)),
  );
}

function tellStray() {
  let text;
  try {
    text = sessionStorage.getItem(STRAY) ?? "";
  } catch {
    return;
  }
  if (!text) return;
  box.hidden = false;
  const discard = button("Discard", () => {
    sessionStorage.removeItem(STRAY);
    show();
  });
  line(`Typed after the last specimen and not saved: ${text} `).append(discard);
}

function line(text) {
  const p = document.createElement("p");
  p.textContent = text;
  box.append(p);
  return p;
}

// What was on its way when a page closed is not confirmed: it waits like the rest, on whatever page.
keep(all().map((entry) => (entry.user === user ? { ...entry, waits: true } : entry)));
show();
flush();
setInterval(flush, 2500);
window.addEventListener("online", flush);
