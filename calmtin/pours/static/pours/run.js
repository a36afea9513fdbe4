// The run sheet: Space or Enter marks the step as done, and the screen stays awake where the browser allows.
import "../js/awake.js";
import { onAccept } from "../js/keys.js";

onAccept((event) => {
  event.preventDefault();
  document.querySelector("[data-next]")?.click();
});

// What was logged stands on the page: the boxes of that form are for the next one, the others keep theirs.
document.addEventListener("htmx:afterSettle", (event) => {
  const form = event.detail.requestConfig?.elt;
  if (!form?.matches("form") || form.querySelector("[aria-invalid]")) return;
  form.querySelectorAll("input[type='text']").forEach((box) => {
    box.value = box.defaultValue;
  });
});
