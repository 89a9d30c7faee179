// The bench line: Space or / brings the cursor here; Enter asks the server what was meant.
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
  if (event.key === "Escape") { input.value = ""; say(""); input.blur(); }
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
  if (answer.kind === "goto") { location.assign(answer.url); return; }
  if (answer.kind === "refused") { say(answer.says, true); return; }
  const taken = !document.dispatchEvent(new CustomEvent(`brunt:${answer.kind}`, { detail: answer, cancelable: true }));
  say(taken ? answer.says : `${answer.says} Open the bench to use it.`, false);
  if (taken) input.value = "";
}

function say(text, refused = false) {
  output.textContent = text;
  output.classList.toggle("refused", refused);
}

// Links with a key of their own.
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || inField(event.target)) return;
  document.querySelector(`a[data-key="${CSS.escape(event.key)}"]`)?.click();
});

// What is due, late and next within the hour, on every page.
const hint = document.querySelector(".line .hint");
async function due() {
  try {
    const answer = await fetch("/due/", { headers: { Accept: "application/json" } });
    if (!answer.ok || answer.redirected) return;
    const told = await answer.json();
    if (!told.within) return;
    const link = document.createElement("a");
    link.href = told.day;
    const next = told.next.map((one) => `${one.label} ${one.words}`).slice(0, 2).join(" · ");
    link.textContent = `${told.late ? `${told.late} late · ` : ""}${next}`;
    link.classList.toggle("is-late", told.late > 0);
    hint.replaceChildren(link);
  } catch { /* asked again in a minute */ }
}
if (hint) { due(); setInterval(due, 60000); }
