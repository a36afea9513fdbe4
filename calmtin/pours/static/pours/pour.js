// Pour day: Enter moves on to the next line, and the screen stays awake.
const focusNext = () => document.querySelector("#weigh [data-next]")?.focus();

document.addEventListener("htmx:afterSettle", (event) => {
  const asked = event.detail.requestConfig;
  if (asked?.triggeringEvent?.type === "submit" || asked?.path?.endsWith("take-back/")) focusNext();
});
// Enter fires "change" before "submit"; the reading is sent once, as a submit.
document.addEventListener("keydown", (event) => {
  if (event.key === "Enter" && event.target.matches(".grams")) {
    event.preventDefault();
    const form = event.target.form;
    event.target.dataset.entered = "yes";
    form.requestSubmit();
  }
});
document.addEventListener("htmx:confirm", (event) => {
  const input = event.target.querySelector?.(".grams");
  if (event.detail.triggeringEvent?.type === "change" && input?.dataset.entered) {
    event.preventDefault();
    delete input.dataset.entered;
  }
});
window.addEventListener("load", focusNext);

let awake = null;
const stayAwake = async () => {
  if (document.visibilityState !== "visible" || !("wakeLock" in navigator)) return;
  try {
    awake = await navigator.wakeLock.request("screen");
  } catch {
    awake = null;
  }
};
document.addEventListener("visibilitychange", stayAwake);
stayAwake();
