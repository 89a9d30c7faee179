// The bench without a server: who was next, and what waits in this browser. It goes on by itself when the server answers.
import { typedAs } from "./entries.js";

const read = (key) => {
  try {
    return JSON.parse(localStorage.getItem(key));
  } catch {
    return null;
  }
};
const entries = read("brunt-outbox") ?? [];
const queue = read("brunt-queue");

const item = (list, text) => list.append(Object.assign(document.createElement("li"), { textContent: text }));
const waits = document.querySelector("[data-waits]");
for (const entry of entries) {
  item(waits, `${entry.code}: ${typedAs(entry)}${entry.refused ? ` (not taken: ${entry.refused})` : ""}`);
}
const head = {
  0: "Nothing waits in this browser: all that was entered here is stored",
  1: "1 entry waits in this browser",
};
document.querySelector("[data-waits-head]").textContent =
  head[entries.length] ?? `${entries.length} entries wait in this browser`;

if (queue) {
  document.querySelector("[data-queue-part]").hidden = false;
  document.querySelector("[data-queue-head]").textContent = `Next at the bench: ${queue.called}`;
  const done = new Set(entries.map((entry) => entry.code));
  const list = document.querySelector("[data-queue]");
  for (const one of queue.items.filter((each) => !done.has(each.code))) item(list, `${one.code} ${one.condition}`);
}

async function back() {
  try {
    const answer = await fetch("/health/", { cache: "no-store" });
    if (answer.ok) location.reload();
  } catch {
    /* not yet */
  }
}
document.querySelector("[data-again]").addEventListener("click", () => location.reload());
setInterval(back, 3000);
