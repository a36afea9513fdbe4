// Pour day: Enter moves on to the next line, and the screen stays awake.
import "../js/awake.js";

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
