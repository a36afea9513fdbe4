// Pour day: Enter moves on to the next line, Space takes what a scale says, and the screen stays awake.
import "../js/awake.js";
import { onAccept } from "../js/keys.js";

const hasScale = () => document.querySelector("[data-accept]");
const focusNext = () => document.querySelector("#weigh [data-next]")?.focus();

// Every answer that changes the sheet leads to the box of the line that is next; so does a digit that is
// typed while nothing has the focus. What is typed while an answer is on its way goes there too.
const isSheet = (path) => !/\/(live|stove|preview)\//.test(path);
let ahead = "";
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.key.length > 1) return;
  const box = event.target.closest(".grams");
  if (box && box.form.matches(".htmx-request")) {
    ahead += event.key;
    event.preventDefault();
  } else if (/[\d.,+½¼¾]/.test(event.key) && !event.target.closest("input, select, textarea, button, a, summary")) {
    focusNext();
  }
});
document.addEventListener("htmx:afterSettle", (event) => {
  const path = event.detail.requestConfig?.path ?? "";
  if (!isSheet(path)) return;
  const box = document.querySelector("#weigh [data-next]");
  if (ahead && box && !box.value) {
    box.value = ahead;
    box.dispatchEvent(new Event("input", { bubbles: true }));
  }
  ahead = "";
  if (hasScale() && !box?.value) document.activeElement?.blur();
  else focusNext();
});

// A weight that is left in its box is saved in the mode that stands beside it.
document.addEventListener("focusout", (event) => {
  const form = event.target.closest(".is-now");
  if (!form || !event.target.matches(".grams") || !event.target.value || !document.hasFocus()) return;
  const to = event.relatedTarget;
  if (form.contains(to) || to?.closest(".keypad, [data-accept]") || form.matches(".htmx-request")) return;
  if (form.querySelector("[aria-invalid]") && event.target.value === event.target.defaultValue) return;
  window.htmx.trigger(form, "leave");
});
window.addEventListener("load", () => {
  if (!hasScale()) focusNext();
});

// A reading of the scale goes through the box of its line, so that it waits there without a connection.
const accept = (button) => {
  const box = document.getElementById(`grams-${button.dataset.accept}`);
  box.value = button.dataset.grams;
  box.form.elements.from_scale.value = "yes";
  if (box.form.elements.mode) box.form.elements.mode.value = box.value.startsWith("+") ? "add" : "shows";
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
