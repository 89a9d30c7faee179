// The bench by keyboard: fields, single keys for outcome and place, Enter stores and brings the next.
const root = document.getElementById("bench");
let sending = false;

const form = () => root.querySelector("[data-entry]");
const reading = () => root.querySelector("[data-reading]");
const fields = () => [...root.querySelectorAll("[data-size]"), reading()];
const isText = (element) => element.matches?.("input:not([type=radio]), textarea, select");

function ready() {
  const first = fields().find((field) => !field.value.trim()) ?? reading();
  first.focus();
  first.select();
  draw();
  spread();
}

// What the server said of each field goes beside that field.
function spread() {
  for (const note of root.querySelectorAll("#answer template[data-for]")) {
    const key = note.dataset.for;
    root.querySelector(`#became-${key}`).textContent = note.dataset.became;
    root.querySelector(`#error-${key}`).textContent = note.dataset.error;
    root.querySelector(`#f-${key}`).setAttribute("aria-invalid", note.dataset.error ? "true" : "false");
  }
}

// The drawing follows outcome, place and load.
function draw() {
  const svg = root.querySelector("[data-drawing]");
  if (!svg) return;
  const outcome = form().elements.outcome.value;
  const place = form().elements.place.value || "gauge";
  const read = reading().value.trim() !== "";
  const parted = outcome === "broke" && read;
  svg.classList.toggle("is-parted", parted);
  svg.classList.toggle("is-whole", !parted);
  svg.querySelectorAll("[data-halves]").forEach((g) => g.toggleAttribute("data-on", g.dataset.halves === place));
  svg.querySelector("[data-whole] polygon").setAttribute("class", outcome === "held" || outcome === "limit" ? "d-held" : "d-bar");
  root.querySelector("[data-reason]").hidden = outcome !== "void";
  arrow(svg);
}

function arrow(svg) {
  const answer = root.querySelector("#answer");
  const part = Number(answer?.dataset.load ?? 0);
  const length = 30 + 130 * part;
  const shown = part > 0;
  svg.querySelector("[data-arrow]").setAttribute("d", shown ? `M150,${200 + length / 2} V${200 - length / 2}` : "");
  svg.querySelector("[data-head]").setAttribute("d", shown ? `M142,${210 - length / 2} l8,-11 8,11 M142,${190 + length / 2} l8,11 8,-11` : "");
  svg.querySelector("[data-loadtext]").textContent = shown ? (root.querySelector("[id^=became-force]")?.textContent.replace("= ", "").split(" —")[0] ?? "") : "";
  svg.querySelector("[data-partof]").textContent = shown ? `${Math.round(part * 100)} % of the rig` : "";
}

async function store() {
  if (sending) return;
  sending = true;
  refuse("");
  const button = root.querySelector("[data-store]");
  button.disabled = true;
  try {
    const answer = await fetch(form().action, { method: "POST", body: new FormData(form()), headers: { "X-Part": "bench" } });
    await receive(answer);
  } catch {
    refuse("The server cannot be reached. Nothing typed here is lost; press Enter to send it again.");
  } finally {
    sending = false;
    root.querySelector("[data-store]")?.removeAttribute("disabled");
  }
}

async function receive(answer) {
  const address = answer.headers.get("X-Address");
  if (answer.status === 204) { location.assign(address); return; }
  if (answer.redirected) { location.assign(answer.url); return; }
  if (answer.status !== 200 && answer.status !== 422) { refuse("The server refused this; reload the page and try again. What you typed is still here."); return; }
  root.innerHTML = await answer.text();
  window.htmx?.process(root);
  if (answer.status === 200) {
    history.pushState({}, "", address);
    document.title = `${address.split("/")[2]} at the bench · Brunt`;
  }
  ready();
  if (answer.status === 422) root.querySelector("[aria-invalid=true]")?.focus();
}

function refuse(sentence) {
  const place = root.querySelector("[data-refused]");
  if (place) place.textContent = sentence;
}

function press(letter) {
  const radio = root.querySelector(`[data-letter="${CSS.escape(letter)}"]`);
  if (!radio) return false;
  radio.checked = true;
  radio.dispatchEvent(new Event("change", { bubbles: true }));
  if (radio.value === "void") { draw(); root.querySelector("#reason").focus(); } else if (isText(document.activeElement)) document.activeElement.blur();
  return true;
}

function enter(event) {
  const here = document.activeElement;
  if (here?.matches("textarea, button, a, summary")) return;
  event.preventDefault();
  const next = form().elements.outcome.value === "void" ? null : fields().find((field) => field !== here && !field.value.trim());
  if (next && fields().includes(here)) { next.focus(); return; }
  store();
}

document.addEventListener("keydown", (event) => {
  if (event.target.closest("[data-line]") || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "Enter") { enter(event); return; }
  if (event.key === "Tab" && !event.shiftKey && event.target === reading() && fields().every((field) => field.value.trim())) {
    event.preventDefault();
    root.querySelector("[name=outcome]:checked").focus();
    return;
  }
  if (event.key === "Escape" && isText(event.target)) { event.target.blur(); return; }
  if (isText(event.target)) return;
  const letter = event.key.toLowerCase();
  if (letter === "u") root.querySelector("[data-undo]").click();
  else if (letter.length === 1 && press(letter)) event.preventDefault();
});

root.addEventListener("submit", (event) => {
  if (event.submitter?.matches("[data-undo]")) return;
  event.preventDefault();
  store();
});
root.addEventListener("change", draw);
root.addEventListener("input", draw);
root.addEventListener("click", (event) => {
  const zone = event.target.closest("[data-zone]");
  if (zone) { const radio = root.querySelector(`[name=place][value="${zone.dataset.zone}"]`); radio.checked = true; radio.dispatchEvent(new Event("change", { bubbles: true })); }
  const instead = event.target.closest("[data-instead]");
  if (instead) { const field = root.querySelector(`#f-${instead.dataset.field}`); field.value = instead.dataset.instead; field.dispatchEvent(new Event("input", { bubbles: true })); field.focus(); }
});
document.addEventListener("htmx:afterSettle", () => { spread(); draw(); });
window.addEventListener("popstate", () => location.reload());

document.addEventListener("brunt:reading", (event) => {
  reading().value = event.detail.value;
  reading().dispatchEvent(new Event("input", { bubbles: true }));
  reading().focus();
  event.preventDefault();
});
document.addEventListener("brunt:note", (event) => {
  const note = root.querySelector("#note");
  note.closest("details").open = true;
  note.value = [note.value, event.detail.value].filter(Boolean).join("\n");
  event.preventDefault();
});

ready();
