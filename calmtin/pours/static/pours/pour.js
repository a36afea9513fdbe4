// Pour day: Enter moves on to the next line, and the screen stays awake.
const focusNext = () => document.querySelector("#weigh [data-next]")?.focus();

// Enter takes the weight and moves on; a touch elsewhere only takes it. Sending once is sending.js's.
let moveOn = false;
document.addEventListener("keydown", (event) => {
  if (event.key === "Enter" && event.target.matches(".grams")) moveOn = true;
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (!moveOn && !event.detail.requestConfig?.path?.endsWith("take-back/")) return;
  moveOn = false;
  focusNext();
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
