// Keys of one letter act only while no box has the focus, and can be switched off in the settings.

export const typing = (target) =>
  target.closest("input:not([type=radio]):not([type=checkbox]), select, textarea, [contenteditable]");

// Beside the box of a weigh sheet, letters that follow a digit are its unit, not shortcuts.
let digitTyped = false;
document.addEventListener("keydown", (event) => {
  if (/^[\d.,+½¼¾]$/.test(event.key) && document.querySelector("#weigh [data-next]")) digitTyped = true;
});
document.addEventListener("htmx:afterSettle", () => {
  digitTyped = false;
});
// What a page asks for by itself makes no key wait: a scale is asked every second.
const isBusy = () => Boolean(document.querySelector("#main .htmx-request:not([data-background])"));

export const lettersAct = (event) =>
  !digitTyped &&
  !isBusy() &&
  document.body.dataset.letterKeys !== "off" &&
  !event.ctrlKey &&
  !event.metaKey &&
  !document.querySelector("dialog[open]") &&
  !typing(event.target);

// Space and Enter, where they do not already press or type something, accept what the page asks for.
export const onAccept = (accept) => {
  document.addEventListener("keydown", (event) => {
    if (!lettersAct(event) || ![" ", "Enter"].includes(event.key)) return;
    if (!event.target.closest("a, button, input, select, summary")) accept(event);
  });
};

let waitingForPlace = false;
document.addEventListener("keydown", (event) => {
  if (event.altKey || event.defaultPrevented || !lettersAct(event)) return;
  if (event.key === "?") {
    document.getElementById("keys").showModal();
    event.preventDefault();
    return;
  }
  if (event.key === "g") {
    waitingForPlace = true;
    setTimeout(() => {
      waitingForPlace = false;
    }, 1500);
    return;
  }
  const wanted = waitingForPlace
    ? `[data-go="${CSS.escape(event.key)}"]`
    : `[data-key="${CSS.escape(event.key)}"]`;
  waitingForPlace = false;
  const target = document.querySelector(wanted);
  if (target) {
    event.preventDefault();
    target.click();
  }
});
document.addEventListener("click", (event) => {
  if (event.target.closest("#show-keys")) document.getElementById("keys").showModal();
});
