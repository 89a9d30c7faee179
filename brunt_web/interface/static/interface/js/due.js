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
    const next = told.next
      .map((one) => `${one.label} ${one.words}`)
      .slice(0, 2)
      .join(" · ");
    link.textContent = `${told.late ? `${told.late} late · ` : ""}${next}`;
    link.classList.toggle("is-late", told.late > 0);
    hint.replaceChildren(link);
  } catch {
    /* asked again in a minute */
  }
}
if (hint) {
  due();
  setInterval(due, 60000);
}
