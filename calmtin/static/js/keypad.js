// Keys for a box of a weight on a touch screen: a phone's own decimal keypad has no unit, half or plus.

const coarse = window.matchMedia("(pointer: coarse)");
let pad = null;
let box = null;

const close = () => {
  pad?.remove();
  pad = null; // the room for it stays: what is pressed next must not move away under the finger
};
// Below the box to weigh the keys stand on the page; any other box has them at the foot of the screen.
const open = (target) => {
  const isHere = target.matches(".is-now .grams");
  box = target;
  if (box.dataset.keypad === "own") return;
  box.inputMode = "none";
  if (pad?.isConnected && (isHere ? pad.previousElementSibling === box : pad.matches(".is-sheet"))) return;
  close();
  pad = document.getElementById("keypad").content.firstElementChild.cloneNode(true);
  if (isHere) {
    box.after(pad);
  } else {
    pad.classList.add("is-sheet");
    document.body.append(pad);
    document.body.classList.add("has-keypad");
  }
};

document.addEventListener("focusin", (event) => {
  if (coarse.matches && event.target.matches?.("input[data-keypad]")) open(event.target);
});
document.addEventListener("focusout", (event) => {
  if (pad?.matches(".is-sheet") && !event.relatedTarget?.matches("input[data-keypad]")) close();
});
// A swap takes the keys away with the box that they belong to.
document.addEventListener("htmx:afterSettle", () => {
  const here = document.activeElement;
  if (coarse.matches && here?.matches("input[data-keypad]")) open(here);
});

const type = (text) => {
  box.setRangeText(text, box.selectionStart, box.selectionEnd, "end");
  box.dispatchEvent(new Event("input", { bubbles: true }));
};
const takeOut = () => {
  if (box.selectionStart === box.selectionEnd && box.selectionStart > 0)
    box.setSelectionRange(box.selectionStart - 1, box.selectionEnd);
  type("");
};

// The box keeps the focus while the keys are pressed.
document.addEventListener("pointerdown", (event) => {
  if (event.target.closest(".keypad")) event.preventDefault();
});
document.addEventListener("click", (event) => {
  const key = event.target.closest(".keypad button");
  if (!key) return;
  box.focus();
  if (key.dataset.types) type(key.dataset.types);
  else if (key.dataset.act === "delete") takeOut();
  else {
    // The phone's own keys, for whatever these do not have.
    box.dataset.keypad = "own";
    box.inputMode = "text";
    close();
    box.blur();
    box.focus();
  }
});
