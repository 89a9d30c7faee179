// Recipes: compare with another; read a G-code file and offer what it says, field by field.
document.querySelector("[data-against]")?.addEventListener("change", (event) => {
  if (event.target.value) location.assign(event.target.value);
});

const box = document.querySelector("[data-gcode]");
const zone = box.querySelector(".drop-zone");
const says = box.querySelector("[data-gcode-says]");
const found = box.querySelector("[data-gcode-found]");
const progress = box.querySelector("[data-progress]");
const field = (key) => document.querySelector(`[data-recipe] [name="${key}"]`);

zone.addEventListener("dragover", (event) => { event.preventDefault(); zone.classList.add("over"); });
zone.addEventListener("dragleave", () => zone.classList.remove("over"));
zone.addEventListener("drop", (event) => { event.preventDefault(); zone.classList.remove("over"); read(event.dataTransfer.files[0]); });
zone.querySelector("input").addEventListener("change", (event) => read(event.target.files[0]));

function read(file) {
  if (!file) return;
  const body = new FormData();
  body.append("gcode", file);
  body.append("kind", box.dataset.kind);
  const request = new XMLHttpRequest();
  progress.hidden = false;
  says.textContent = `Reading ${file.name} …`;
  request.upload.addEventListener("progress", (event) => { progress.max = event.total; progress.value = event.loaded; });
  request.addEventListener("load", () => { progress.hidden = true; show(JSON.parse(request.responseText), file.name); });
  request.addEventListener("error", () => { progress.hidden = true; says.textContent = "The server cannot be reached; the form is untouched."; });
  request.open("POST", box.dataset.gcode);
  request.setRequestHeader("X-CSRFToken", document.querySelector("[name=csrfmiddlewaretoken]").value);
  request.send(body);
}

function show(answer, name) {
  found.replaceChildren();
  says.classList.toggle("error-text", Boolean(answer.error));
  if (answer.error) { says.textContent = answer.error; return; }
  const extra = [answer.filament_m && `${answer.filament_m.toFixed(2)} m of filament`, answer.seconds && `${Math.round(answer.seconds / 60)} min estimated`].filter(Boolean);
  says.textContent = [`${name}: ${answer.lines} lines read, ${answer.found.length} settings found`, ...extra].join("; ");
  answer.found.forEach((one) => found.append(row(one)));
  const empty = answer.found.filter((one) => !one.problem && field(one.key) && !field(one.key).value);
  if (empty.length) found.append(button(`Fill the ${empty.length} empty fields`, () => empty.forEach((one) => { field(one.key).value = one.text; }), "btn main"));
}

function row(one) {
  const line = document.createElement("p");
  const now = field(one.key)?.value;
  line.append(`${one.label}: ${one.text} `, Object.assign(document.createElement("span"), { className: "soft", textContent: `(${one.where}) ` }));
  if (one.problem) line.append(Object.assign(document.createElement("span"), { className: "error-text", textContent: one.problem }));
  else if (now && now !== one.text) line.append(button(`replace ${now}`, () => { field(one.key).value = one.text; }, "btn"));
  return line;
}

function button(text, act, style) {
  const made = Object.assign(document.createElement("button"), { type: "button", textContent: text, className: style });
  made.addEventListener("click", () => { act(); made.disabled = true; });
  return made;
}
