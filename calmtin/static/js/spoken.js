// Say once, when a page has come to rest, what it reads now: a line nudged five times is one sentence.
const said = document.getElementById("spoken");
const told = () => document.querySelector("[data-spoken]")?.dataset.spoken ?? "";

let last = told();
let resting = 0;
document.addEventListener("htmx:afterSettle", () => {
  clearTimeout(resting);
  resting = setTimeout(() => {
    const now = told();
    if (now && now !== last) said.textContent = now;
    last = now;
  }, 700);
});
