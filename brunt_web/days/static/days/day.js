// The schedule: drawn jobs are dragged or moved by key, single keys press buttons, savings are tried on request.
import { post, token } from "../interface/js/post.js";

const shelves = document.querySelector("[data-shelves]");
const begin = new Date(shelves.dataset.begin).getTime();
const dusk = new Date(shelves.dataset.dusk).getTime();
const perUnit = (dusk - begin) / Number(shelves.dataset.day);
const FIVE = 5 * 60000;

async function send(address, fields) {
  try {
    const answer = await post(address, fields);
    if (answer.ok) {
      location.reload();
      return;
    }
    say((await answer.json()).error);
  } catch {
    say("The server cannot be reached; nothing was moved.");
  }
}

function say(text) {
  let place = document.querySelector(".day-said");
  if (!place) {
    place = document.createElement("p");
    place.className = "note-box day-said";
    place.setAttribute("role", "alert");
    shelves.before(place);
  }
  place.textContent = text;
}

const moveTo = (drawnJob, time) =>
  send(shelves.dataset.move, {
    key: drawnJob.dataset.job,
    start: new Date(Math.round(time / FIVE) * FIVE).toISOString(),
  });

let held = null;
shelves.addEventListener("pointerdown", (event) => {
  const drawnJob = event.target.closest("[data-job]");
  if (!drawnJob || event.button) return;
  held = { drawnJob, x: event.clientX, scale: 940 / shelves.getBoundingClientRect().width, by: 0 };
  event.preventDefault();
});
addEventListener("pointermove", (event) => {
  if (!held) return;
  held.by = (event.clientX - held.x) * held.scale;
  if (Math.abs(held.by) > 3) held.drawnJob.setAttribute("transform", `translate(${held.by},0)`);
});
addEventListener("pointerup", () => {
  if (!held) return;
  const { drawnJob, by } = held;
  held = null;
  if (Math.abs(by) > 3) moveTo(drawnJob, new Date(drawnJob.dataset.start).getTime() + by * perUnit);
  else location.assign(drawnJob.getAttribute("href"));
});
shelves.addEventListener("click", (event) => {
  if (event.target.closest("[data-job]") && event.detail) event.preventDefault();
});
addEventListener("pointercancel", () => {
  held?.drawnJob.removeAttribute("transform");
  held = null;
});

shelves.addEventListener("keydown", (event) => {
  const drawnJob = event.target.closest("[data-job]");
  if (!drawnJob) return;
  const step = { ArrowLeft: -15, ArrowRight: 15 }[event.key];
  if (step) {
    event.preventDefault();
    event.stopPropagation();
    moveTo(drawnJob, new Date(drawnJob.dataset.start).getTime() + step * 60000);
  }
  if (event.key === "n" && "pinned" in drawnJob.dataset) {
    event.preventDefault();
    send(shelves.dataset.unpin, { key: drawnJob.dataset.job });
  }
});

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input, textarea, select")) return;
  if (!event.target.closest("button, summary"))
    document.querySelector(`button[data-key="${CSS.escape(event.key)}"]`)?.click();
});

const saving = document.querySelector("[data-savings]");
saving.querySelector("button").addEventListener("click", async (event) => {
  event.target.disabled = true;
  event.target.textContent = "Trying it out …";
  const answer = await fetch(saving.dataset.savings);
  const holder = document.createElement("div");
  holder.setAttribute("role", "status");
  holder.replaceChildren(...new DOMParser().parseFromString(await answer.text(), "text/html").body.childNodes);
  for (const field of holder.querySelectorAll("[name=csrfmiddlewaretoken]")) field.value = token();
  saving.replaceChildren(holder);
});
