// A run: seconds count down, the thermometer is asked, single keys press the buttons.
import { post } from "../interface/js/post.js";

const run = document.querySelector("[data-run]");
const clock = run.querySelector("[data-until]");
const reading = run.querySelector("[data-reading]");

const words = (seconds) => {
  const left = Math.abs(seconds);
  const d = Math.floor(left / 86400),
    h = Math.floor((left % 86400) / 3600),
    m = Math.floor((left % 3600) / 60);
  const text = d ? `${d} d ${h} h` : h ? `${h} h ${m} min` : m ? `${m} min` : `${Math.floor(left)} s`;
  return seconds < 0 ? `${text} over` : text;
};

if (clock) {
  const until = new Date(clock.dataset.until).getTime();
  const tick = () => {
    const left = (until - Date.now()) / 1000;
    clock.textContent = words(left);
    clock.classList.toggle("is-over", left < 0);
  };
  tick();
  setInterval(tick, 1000);
}

const typing = (target) => target.closest("input, textarea, select");

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
  const key = event.key.toLowerCase();
  if (key === "x") {
    const out = run.querySelector("[data-out]");
    if (out) {
      out.open = true;
      out.querySelector("input[name=specimen]").focus();
      event.preventDefault();
    }
  } else if (key === "enter" && !event.target.closest("button, a, summary")) {
    reading?.focus();
  } else {
    run.querySelector(`button[data-key="${CSS.escape(key)}"]`)?.click();
  }
});

const signed = run.querySelector("[name=csrfmiddlewaretoken]");
const busy = () =>
  [...run.querySelectorAll("input:not([type=hidden]), textarea")].some((field) => field.value && !field.defaultValue) ||
  (document.activeElement && typing(document.activeElement));

async function ask() {
  try {
    const answer = await post(run.dataset.live);
    if (answer.ok && (await answer.json()).fresh && !busy()) location.reload();
  } catch {
    /* asked again in a while */
  }
}

if (run.dataset.state === "running" && signed) {
  ask();
  setInterval(ask, 20000);
}
