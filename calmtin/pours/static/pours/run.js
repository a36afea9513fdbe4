// The run sheet: Space or Enter marks the step as done, and the screen stays awake where the browser allows.
import { lettersAct } from "../js/keys.js";

document.addEventListener("keydown", (event) => {
  if (!lettersAct(event) || ![" ", "Enter"].includes(event.key)) return;
  if (event.target.closest("a, button, input, select, summary")) return;
  event.preventDefault();
  document.querySelector("[data-next]")?.click();
});

// What was logged stands in the clock: the boxes are for the next reading and the next note.
document.addEventListener("htmx:afterSettle", () => {
  if (document.querySelector(".run [aria-invalid]")) return;
  document.querySelectorAll(".run input[type='text']").forEach((box) => {
    box.value = "";
  });
});

const stayAwake = async () => {
  try {
    if (document.visibilityState === "visible") await navigator.wakeLock?.request("screen");
  } catch {
    // A browser that saves power says no; the page is the same without.
  }
};
document.addEventListener("visibilitychange", stayAwake);
stayAwake();
