// The bench line: Space or / come here; Enter asks what was meant.
const form = document.querySelector("[data-line]");
const input = form.querySelector("input");
const output = form.querySelector("output");

const inField = (target) => target.closest("input, textarea, select, button, a, summary, [contenteditable]");

document.addEventListener("keydown", (event) => {
  if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey) return;
  if ((event.key === " " || event.key === "/") && !inField(event.target)) {
    event.preventDefault();
    input.focus();
  }
});

input.addEventListener("keydown", (event) => {
  if (event.key === "Escape") {
    input.value = "";
    say("");
    input.blur();
  }
});

form.addEventListener("submit", async (event) => {
  event.preventDefault();
  const typed = input.value;
  try {
    const answer = await (await fetch(`/line/?q=${encodeURIComponent(typed)}`)).json();
    act(answer);
  } catch {
    say("The server cannot be reached; what you typed is still here.", true);
  }
});

function act(answer) {
  if (answer.kind === "goto") {
    location.assign(answer.url);
    return;
  }
  if (answer.kind === "refused") {
    say(answer.says, true);
    return;
  }
  const taken = !document.dispatchEvent(new CustomEvent(`brunt:${answer.kind}`, { detail: answer, cancelable: true }));
  say(taken ? answer.says : `${answer.says} Open the bench to use it.`, false);
  if (taken) input.value = "";
}

function say(text, refused = false) {
  output.textContent = text;
  output.classList.toggle("refused", refused);
}

// Links by key.
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || inField(event.target)) return;
  document.querySelector(`:is(a, summary, button)[data-key="${CSS.escape(event.key)}"]`)?.click();
});

// Long forms keep what is typed into them.
const drafts = document.querySelector("form[data-draft]") ? import("./form-draft.js") : Promise.resolve();
// A page says when its scripts listen; tests wait for it.
drafts.finally(() => {
  document.documentElement.dataset.ready = "";
});

// What is due is asked for once the page is at rest.
setTimeout(() => import("./due.js").catch(() => undefined), 3000);

// Every printed sheet says what it is of and when it was printed, in the workshop's zone.
addEventListener("beforeprint", () => {
  const { printed, in: zone } = form.parentElement.dataset;
  /** @type {Intl.DateTimeFormatOptions} */
  const how = { dateStyle: "medium", timeStyle: "short" };
  let at;
  try {
    at = new Date().toLocaleString("en-GB", { ...how, timeZone: zone });
  } catch {
    at = new Date().toLocaleString("en-GB", how);
  }
  const words = `${printed} · printed ${at} ${zone}`.replace(/["\\\n]/g, " ");
  document.documentElement.style.setProperty("--printed", `"${words}"`);
});
