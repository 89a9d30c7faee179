// The queue on the screen: kept for when the server is away, and counted as entries are made.
import { root } from "./screen.js";

// What is next, for the page that stands where the server cannot be reached.
export function keepQueue() {
  const rows = [...root.querySelectorAll(".queue [data-waits]")].slice(0, 200);
  const items = rows.map((link) => ({ code: link.dataset.code, condition: link.dataset.condition }));
  const { called } = document.body.dataset;
  try {
    localStorage.setItem("brunt-queue", JSON.stringify({ called, items }));
  } catch {
    /* then that page has no queue */
  }
}

// What stands under the stages in the page's head follows each entry.
export function countStages() {
  const told = root.querySelector(".queue")?.dataset.counts;
  if (!told) return;
  for (const [key, words] of Object.entries(JSON.parse(told))) {
    const small = document.querySelector(`.stage-bar [data-stage="${key}"] small`);
    if (small) small.textContent = words;
  }
}
