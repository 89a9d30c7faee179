// A large file goes up with its progress shown; the server's page then takes this one's place.
const form = document.querySelector("[data-upload]");
const progress = form.querySelector("[data-progress]");
const says = form.querySelector("[data-says]");

form.addEventListener("submit", (event) => {
  const file = form.querySelector("[type=file]").files[0];
  if (!file || file.size < 500_000) return;
  event.preventDefault();
  const request = new XMLHttpRequest();
  progress.hidden = false;
  says.textContent = `Sending ${file.name} …`;
  request.upload.addEventListener("progress", (sent) => {
    progress.max = sent.total;
    progress.value = sent.loaded;
    if (sent.loaded === sent.total) {
      progress.removeAttribute("value");
      says.textContent = "Measuring and drawing it …";
    }
  });
  request.addEventListener("load", () => {
    if (request.status === 202) {
      location.assign(JSON.parse(request.responseText).job);
      return;
    }
    if (request.status === 200) {
      location.assign(request.responseURL);
      return;
    }
    progress.hidden = true;
    const page = new DOMParser().parseFromString(request.responseText, "text/html");
    const problems = [...page.querySelectorAll(".error-text, [role=alert]")].map((p) => p.textContent.trim());
    says.className = "error-text";
    says.textContent =
      [...new Set(problems)].join(" ") || "The server did not take the file; the form is as you left it.";
  });
  request.addEventListener("error", () => {
    progress.hidden = true;
    says.textContent = "The server cannot be reached; the form is as you left it.";
  });
  request.open("POST", location.href);
  request.send(new FormData(form));
});
