// Keys on the formula page: nudge a line, let it balance, reach the box for a new one.
"use strict";

const bench = document.getElementById("main");

const nudge = (input, event) => {
  const size = event.altKey ? 5 : event.shiftKey ? 0.1 : 0.5;
  const now = Number.parseFloat(input.value.replace(",", "."));
  if (Number.isNaN(now) || input.readOnly) return;
  const next = Math.min(100, Math.max(0, now + (event.key === "ArrowUp" ? size : -size)));
  input.value = String(Math.round(next * 1000) / 1000);
  input.dispatchEvent(new Event("change", { bubbles: true }));
};

bench.addEventListener("keydown", (event) => {
  const line = event.target.closest("[data-line]");
  if (event.target.matches("[data-line] .percent")) {
    if (event.key === "ArrowUp" || event.key === "ArrowDown") { event.preventDefault(); nudge(event.target, event); }
    if (event.key === "b") { event.preventDefault(); line.querySelector(".balance")?.click(); }
    if (event.key === "l") { event.preventDefault(); line.querySelector(".lock")?.click(); }
    if (event.key === "s") { event.preventDefault(); line.querySelector(".swap")?.click(); }
    if (event.key === "Escape") { event.target.value = event.target.dataset.was; }
  }
});
document.addEventListener("keydown", (event) => {
  if (event.key === "/" && !event.target.closest("input, select, textarea")) {
    event.preventDefault();
    document.getElementById("add-material")?.focus();
  }
});
bench.addEventListener("focusin", (event) => {
  if (event.target.matches(".percent")) event.target.select();
});
// What was refused stays in its box, so the box needs its own value back from the page.
document.addEventListener("htmx:afterSwap", (event) => {
  const added = event.detail.requestConfig?.elt?.matches?.(".add-line");
  if (added && !document.getElementById("wrong-add")) {
    document.getElementById("add-percent").value = "";
    document.getElementById("add-material").focus();
  }
});

// Asked why: bring the reasons into sight.
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.requestConfig?.elt?.id !== "open-why") return;
  const calm = matchMedia("(prefers-reduced-motion: reduce)").matches;
  document.getElementById("reasons")?.scrollIntoView({ behavior: calm ? "auto" : "smooth" });
});
