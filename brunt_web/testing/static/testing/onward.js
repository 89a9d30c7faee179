// With the next specimen at hand and this one answered for, the screen goes on at once and the entry
// is confirmed behind it: it stays in the outbox until the server has it.
import * as ahead from "./ahead.js";
import * as clock from "./clock.js";
import * as outbox from "../interface/js/outbox.js";
import { countStages, keepQueue } from "./queue.js";
import { form, moveTo, root } from "./screen.js";

let underway = Promise.resolve();

// Resolves when the server has what was entered last, or it waits in the outbox.
export const confirmed = () => underway;

// True when the next specimen's form stands on the screen.
export async function goAhead(entry) {
  if (!ahead.has(entry.code) || !(await answerFits())) return false;
  const found = form().dataset.code === entry.code ? ahead.take(entry.code) : null;
  if (!found) return false;
  form().outerHTML = found.html;
  window.htmx?.process(form());
  moveTo(found.address);
  underway = confirm(entry, form().dataset.base);
  return true;
}

async function confirm(entry, here) {
  const patience = setTimeout(() => outbox.late(entry.key), 1200);
  try {
    const answer = await outbox.send(entry, "outbox");
    if (answer.status === 422) await outbox.refuse(entry.key, answer);
    else if (answer.ok && !answer.redirected) outbox.drop(entry.key);
    else {
      outbox.wait(entry.key);
      outbox.flush();
    }
    await freshQueue(here);
  } catch {
    outbox.wait(entry.key);
  } finally {
    clearTimeout(patience);
  }
}

async function freshQueue(base) {
  const answer = await fetch(`${base}bench/queue/`);
  if (answer.status !== 200 || form().dataset.base !== base) return;
  root.querySelector(".queue").outerHTML = await answer.text();
  countStages();
  keepQueue();
  clock.restart();
}

// Whether the answer on the screen is to what stands in the form, and there is nothing to ask.
let answered = "";
let asking = "";
let failed = "";
const beside = new Set(["csrfmiddlewaretoken", "key", "kept", "changed", "typed_for", "note", "reason"]);
const standing = () => JSON.stringify([...new FormData(form())].filter(([name]) => !beside.has(name)));

// Whether what the screen says is said of what stands in the form now.
export const isCurrent = () => answered === standing();

export function nothingAnswered() {
  answered = asking = failed = "";
}

async function answerFits() {
  if (form().elements.outcome.value === "void") return Boolean(form().elements.reason.value.trim());
  for (let i = 0; answered !== standing() && failed !== standing() && i < 60; i += 1) {
    if (asking !== standing()) form().dispatchEvent(new Event("change", { bubbles: true }));
    await new Promise((go) => {
      setTimeout(go, 15);
    });
  }
  const ask = root.querySelector("[data-asked]");
  const settled = !ask || form().elements.kept.value === ask.dataset.asked;
  return (
    answered === standing() &&
    settled &&
    Boolean(root.querySelector("#answer[data-ready]")) &&
    !root.querySelector("[aria-invalid=true]")
  );
}

document.addEventListener("htmx:beforeRequest", () => {
  asking = standing();
});
document.addEventListener("htmx:sendError", () => {
  failed = asking;
});
document.addEventListener("htmx:afterSettle", () => {
  answered = asking;
});
