// What is typed into a long form outlives a reload, a lost connection and a page left by mistake: it stays in this
// browser's tab, under its person and address, until the form is saved or the draft is discarded.
const form = document.querySelector("form[data-draft]");
const who = document.getElementById("outbox")?.dataset.user ?? "";
const KEY = `brunt-form:${who}:${location.pathname}${location.search}`;
const PATIENCE = 8000; // how long fields that the server adds later are waited for, in ms

const kept = (field) => field.name && !["hidden", "file", "password", "submit", "button"].includes(field.type);
const ticks = (field) => field.type === "checkbox" || field.type === "radio";

function standing() {
  const rows = [];
  for (const field of form.elements) {
    if (!kept(field)) continue;
    if (!ticks(field)) rows.push([field.name, field.value]);
    else if (field.checked) rows.push([field.name, field.value]);
  }
  return rows;
}

function read() {
  try {
    return JSON.parse(sessionStorage.getItem(KEY));
  } catch {
    return null;
  }
}

function write(draft) {
  try {
    if (draft) sessionStorage.setItem(KEY, JSON.stringify(draft));
    else sessionStorage.removeItem(KEY);
  } catch {
    /* without a store the form is as it was before there were drafts */
  }
}

const first = JSON.stringify(standing());

function keep() {
  const rows = standing();
  write(JSON.stringify(rows) === first ? null : { rows, at: Date.now(), sent: false });
}

// Puts back what has a field; returns what has none yet.
function putBack(rows) {
  const missing = [];
  for (const [name, value] of rows) {
    const fields = [...form.elements].filter((field) => kept(field) && field.name === name);
    if (!fields.length) missing.push([name, value]);
    for (const field of fields) {
      if (ticks(field) && field.value === value && !field.checked)
        set(field, () => {
          field.checked = true;
        });
      if (!ticks(field) && fields.length === 1 && field.value !== value)
        set(field, () => {
          field.value = value;
        });
    }
  }
  return missing;
}

function untick(rows) {
  for (const field of form.elements) {
    if (!kept(field) || field.type !== "checkbox" || !field.checked) continue;
    if (!rows.some(([name, value]) => name === field.name && value === field.value))
      set(field, () => {
        field.checked = false;
      });
  }
}

function set(field, change) {
  change();
  for (const kind of ["input", "change"]) field.dispatchEvent(new Event(kind, { bubbles: true }));
}

function tell(draft) {
  const bar = document.createElement("p");
  bar.className = "note-box calm";
  bar.setAttribute("role", "status");
  const at = new Date(draft.at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  bar.textContent = `What you typed at ${at} is back; it is not saved yet. `;
  const drop = document.createElement("button");
  drop.type = "button";
  drop.className = "linkish";
  drop.textContent = "Discard this draft";
  drop.addEventListener("click", () => {
    form.removeEventListener("input", keep);
    form.removeEventListener("change", keep);
    write(null);
    location.reload();
  });
  bar.append(drop);
  form.prepend(bar);
}

function begin() {
  const draft = read();
  const way = performance.getEntriesByType("navigation")[0]?.type;
  if (draft?.sent && way === "navigate") write(null);
  else if (draft && JSON.stringify(draft.rows) !== first) {
    tell(draft);
    untick(draft.rows);
    let missing = putBack(draft.rows);
    const later = () => {
      missing = putBack(missing);
      if (!missing.length) document.removeEventListener("htmx:afterSettle", later);
    };
    if (missing.length) {
      document.addEventListener("htmx:afterSettle", later);
      setTimeout(() => document.removeEventListener("htmx:afterSettle", later), PATIENCE);
    }
  }
  form.addEventListener("input", keep);
  form.addEventListener("change", keep);
  form.addEventListener("submit", () => {
    const now = read();
    if (now) write({ ...now, sent: true });
  });
}

if (document.readyState === "complete") begin();
else window.addEventListener("load", begin);
