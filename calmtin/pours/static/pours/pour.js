// Pour day: Enter moves on to the next line, Space takes what a scale says, and the screen stays awake.
import "../js/awake.js";
import "./clocks.js";
import { onAccept } from "../js/keys.js";

const hasScale = () => document.querySelector("[data-accept]");
const focusNext = () => document.querySelector("#weigh [data-next]")?.focus();

// Enter takes the weight and moves on; a touch elsewhere only takes it. Sending once is sending.js's.
let moveOn = false;
document.addEventListener("keydown", (event) => {
  if (event.key === "Enter" && event.target.matches(".grams")) moveOn = true;
});
document.addEventListener("click", (event) => {
  if (event.target.closest(".is-now button")) moveOn = true;
});
document.addEventListener("htmx:afterSettle", (event) => {
  const path = event.detail.requestConfig?.path ?? "";
  if (path.includes("/live/") || path.includes("/stove/")) return;
  if (!moveOn && !path.endsWith("undo/")) return;
  moveOn = false;
  if (hasScale()) document.activeElement?.blur();
  else focusNext();
});
window.addEventListener("load", () => {
  if (!hasScale()) focusNext();
});

// A reading of the scale goes through the box of its line, so that it waits there without a connection.
const accept = (button) => {
  const box = document.getElementById(`grams-${button.dataset.accept}`);
  box.value = button.dataset.grams;
  box.form.elements.from_scale.value = "yes";
  window.htmx.trigger(box.form, "submit");
};
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-accept], [data-type]");
  if (button?.dataset.accept) accept(button);
  if (button?.dataset.type) document.getElementById(`grams-${button.dataset.type}`).focus();
});
// After a touch at the simulated stove, Space is the scale's again.
document.addEventListener("click", (event) => {
  if (event.detail && event.target.closest(".stove button")) document.activeElement.blur();
});
document.addEventListener("input", (event) => {
  if (event.target.form?.elements.from_scale) event.target.form.elements.from_scale.value = "";
});
onAccept((event) => {
  const button = hasScale();
  if (!button) return;
  event.preventDefault();
  button.click();
});
