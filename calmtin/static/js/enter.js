// Enter in a box of a form that creates, prints or starts something goes to the next box, and from the
// last one to the form's button. Such a form begins with a button that is marked [data-enter].

const REACHED = "input:not([type=hidden]), select, textarea, button, summary, a[href]";

const isReached = (control) =>
  !control.disabled && control.tabIndex >= 0 && control.checkVisibility({ checkVisibilityCSS: true });

document.addEventListener("keydown", (event) => {
  const box = event.target;
  if (event.key !== "Enter" || event.isComposing || event.defaultPrevented) return;
  if (!(box instanceof HTMLInputElement) || ["submit", "button", "file"].includes(box.type)) return;
  const first = [...(box.form?.elements ?? [])].find((control) => control.type === "submit");
  if (first?.dataset.enter === undefined) return;
  event.preventDefault();
  const controls = [...box.form.querySelectorAll(REACHED)].filter(isReached);
  const next = controls.slice(controls.indexOf(box) + 1);
  (next.find((control) => control.matches("input, select, textarea, button")) ?? box).focus();
});
