// Keys on the formula page: nudge a line, let it balance, reach the box for a new one.
"use strict";

const bench = document.getElementById("main");

const nudge = (input, event) => {
  const size = event.altKey ? 5 : event.shiftKey ? 0.1 : 0.5;
  const now = Number.parseFloat(input.value.replace(",", "."));
  if (Number.isNaN(now) || input.readOnly) return;
  const next = Math.min(100, Math.max(0, now + (event.key === "ArrowUp" ? size : -size)));
  const onTop = input.value.trim().startsWith("+") ? "+" : "";
  input.value = onTop + String(Math.round(next * 1000) / 1000);
  input.dispatchEvent(new Event("change", { bubbles: true }));
};

bench.addEventListener("keydown", (event) => {
  const line = event.target.closest("[data-line]");
  if (event.target.matches("[data-line] .percent")) {
    if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      event.preventDefault();
      nudge(event.target, event);
    }
    if (event.key === "b") {
      event.preventDefault();
      line.querySelector(".balance")?.click();
    }
    if (event.key === "l") {
      event.preventDefault();
      line.querySelector(".lock")?.click();
    }
    const way = { z: "undo", y: "redo" }[event.key];
    if (way) {
      event.preventDefault();
      document.getElementById(way)?.click();
    }
    if (event.key === "s") {
      event.preventDefault();
      line.querySelector(".swap")?.click();
    }
    if (event.key === "Escape") {
      event.target.value = event.target.dataset.was;
    }
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
    document.getElementById("add-material").value = "";
    document.getElementById("add-material").focus();
  }
});

// Asked why: bring the reasons into sight.
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.requestConfig?.elt?.id !== "open-why") return;
  const calm = matchMedia("(prefers-reduced-motion: reduce)").matches;
  document.getElementById("reasons")?.scrollIntoView({ behavior: calm ? "auto" : "smooth" });
});

// The tin's boundaries: drag one, or move it with the arrow keys, to trade a layer against the next.
const trade = (handle, percent) => {
  const form = document.getElementById("trade");
  const next = Math.min(Number(handle.dataset.both), Math.max(0, percent));
  htmx.ajax("POST", form.dataset.address.replace("KEY", handle.dataset.key), {
    source: "#formula",
    target: "#formula",
    swap: "morph:outerHTML",
    values: {
      csrfmiddlewaretoken: form.elements.csrfmiddlewaretoken.value,
      seen: form.elements.seen.value,
      percent: String(Math.round(next * 10) / 10),
      other: handle.dataset.other,
    },
  });
};

let held = null;
const grown = (event) => {
  const scale = held.svg.getScreenCTM().d;
  return (held.from - event.clientY) / scale / Number(held.handle.dataset.perPercent);
};
document.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest(".handle");
  if (!handle) return;
  event.preventDefault();
  handle.focus();
  held = {
    handle,
    svg: handle.ownerSVGElement,
    from: event.clientY,
    transform: handle.getAttribute("transform"),
  };
});
document.addEventListener("pointermove", (event) => {
  if (!held) return;
  const [x, y] = held.transform.match(/-?[\d.]+/g).map(Number);
  const moved = grown(event) * Number(held.handle.dataset.perPercent);
  held.handle.setAttribute("transform", `translate(${x} ${(y - moved).toFixed(1)})`);
});
document.addEventListener("pointerup", (event) => {
  if (!held) return;
  const { handle, transform } = held;
  const percent = Number(handle.dataset.percent) + grown(event);
  held = null;
  handle.setAttribute("transform", transform);
  trade(handle, percent);
});
bench.addEventListener("keydown", (event) => {
  const handle = event.target.closest(".handle");
  if (!handle || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
  event.preventDefault();
  const size = event.altKey ? 5 : event.shiftKey ? 0.1 : 0.5;
  trade(handle, Number(handle.dataset.percent) + (event.key === "ArrowUp" ? size : -size));
});
