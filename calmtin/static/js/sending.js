// Sent once: a form is on its way one time only, however it was pressed.

// Enter in a box is a change and then a submit: the one edit is asked for once.
const changedAt = new WeakMap();
document.addEventListener("htmx:confirm", (event) => {
  const { elt, triggeringEvent } = event.detail;
  if (triggeringEvent?.type === "change") changedAt.set(elt, performance.now());
  if (triggeringEvent?.type === "submit" && performance.now() - (changedAt.get(elt) ?? -1000) < 500)
    event.preventDefault();
});

// What may take long says so once it does.
const PATIENT_MS = 1500;
const sayThatItTakes = (form) => {
  const words = document.createElement("p");
  words.className = "think-note";
  words.textContent = form.dataset.takes;
  form.append(words);
  document.getElementById("spoken").textContent = form.dataset.takes;
};

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (form.matches("[hx-post]") || form.method === "dialog") return;
  if (form.dataset.sent) {
    event.preventDefault();
    return;
  }
  form.dataset.sent = "yes";
  (event.submitter || form).classList.add("is-sending");
  if (form.dataset.takes) setTimeout(sayThatItTakes, PATIENT_MS, form);
});
window.addEventListener("pageshow", (event) => {
  // Back to a page that has moved on: ask for its current state.
  if (event.persisted) window.location.reload();
});
