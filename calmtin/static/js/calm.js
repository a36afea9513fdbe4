// What every page needs: keys, sending once, and saying when the server cannot be reached.
"use strict";

const typing = (target) =>
  target.closest("input:not([type=radio]):not([type=checkbox]), select, textarea, [contenteditable]");

// An answer must not wipe what was typed since it was asked for: a box that differs
// from what the server last said (data-was) keeps its text until its own form is answered.
let answered = null;
let unchanged = null;
document.addEventListener("htmx:beforeSwap", (event) => {
  answered = event.detail.requestConfig.elt;
  const box = document.activeElement;
  unchanged = box?.dataset?.was !== undefined && box.value === box.dataset.was ? box.id : null;
});
// The box in use is left alone by the morph; it follows when nothing new was typed in it,
// or when it is the one that was answered: it then says what its text came to.
document.addEventListener("htmx:afterSwap", () => {
  const box = document.activeElement;
  if (!box?.dataset?.was || box.hasAttribute("aria-invalid")) return;
  if (box.form === answered || (box.id && box.id === unchanged)) box.value = box.dataset.was;
});
Idiomorph.defaults.ignoreActiveValue = true;
Idiomorph.defaults.callbacks.beforeNodeMorphed = (old, fresh) => {
  if (old.dataset?.was === undefined || old.value === old.dataset.was || old.form === answered) return;
  if (old.matches("select")) {
    fresh.querySelector(`option[value="${CSS.escape(old.value)}"]`)?.setAttribute("selected", "");
  } else {
    fresh.setAttribute("value", old.value);
    fresh.value = old.value;
  }
};

// Enter in a box is a change and then a submit: the one edit is asked for once.
const changedAt = new WeakMap();
document.addEventListener("htmx:confirm", (event) => {
  const { elt, triggeringEvent } = event.detail;
  if (triggeringEvent?.type === "change") changedAt.set(elt, performance.now());
  if (triggeringEvent?.type === "submit" && performance.now() - (changedAt.get(elt) ?? -1000) < 500)
    event.preventDefault();
});

// A plain form is sent once, however often its button is pressed.
document.addEventListener("submit", (event) => {
  const form = event.target;
  if (form.matches("[hx-post]") || form.method === "dialog") return;
  if (form.dataset.sent) {
    event.preventDefault();
    return;
  }
  form.dataset.sent = "yes";
  (event.submitter || form).classList.add("is-sending");
});
window.addEventListener("pageshow", (event) => {
  // Back to a page that has moved on: ask for its current state.
  if (event.persisted) window.location.reload();
});

const trouble = (words) => {
  const box = document.getElementById("trouble");
  box.textContent = words;
  box.hidden = !words;
};
document.addEventListener("htmx:sendError", () =>
  trouble("The bench cannot be reached, so this was not saved. It stays on the screen; try again."),
);
document.addEventListener("htmx:responseError", (event) =>
  trouble(
    event.detail.xhr.status === 403
      ? "This page was open for too long. Reload it and do that once more; what was saved before is safe."
      : "That did not work and was not saved. Reload the page and try again.",
  ),
);
document.addEventListener("htmx:afterOnLoad", () => trouble(""));

let waitingForPlace = false;
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || document.querySelector("dialog[open]")) return;
  if (typing(event.target) && event.key !== "Escape") return;
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
