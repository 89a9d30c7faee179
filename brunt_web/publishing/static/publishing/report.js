// The report's one press to paper, and addresses that are marked whole when pressed.
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-print]")) globalThis.print();
  event.target.closest("[data-copy]")?.select();
});

// What is folded stands on paper all the same.
globalThis.addEventListener("beforeprint", () => {
  for (const part of document.querySelectorAll(".rp details")) part.open = true;
});
