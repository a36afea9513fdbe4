// Say once, when a page has come to rest, what it reads now: a line nudged five times is one sentence.
// What was asked for with a button is brought into view where it lies below the screen's edge.
const said = document.getElementById("spoken");
const told = () => document.querySelector("[data-spoken]")?.dataset.spoken ?? "";

const bring = () => {
  const asked = document.querySelector("[data-bring]");
  const isTyping = document.activeElement?.matches("input:not([type=checkbox]), select, textarea");
  if (asked && !isTyping && asked.getBoundingClientRect().top > window.innerHeight - 100)
    asked.scrollIntoView();
};

let last = told();
let resting = 0;
const speak = () => {
  const now = told();
  if (now && now !== last) said.textContent = now;
  last = now;
};
// An answer that is still on its way says more: what stands now is not yet what the page comes to.
document.addEventListener("htmx:beforeRequest", () => clearTimeout(resting));
document.addEventListener("htmx:afterRequest", () => {
  clearTimeout(resting);
  resting = setTimeout(speak, 700);
});
document.addEventListener("htmx:afterSettle", () => {
  if (told() !== last) bring();
});
