// Keys on the formula page: nudge a line, let it balance, reach the box for a new one.
import { lettersAct } from "../js/keys.js";

const bench = document.getElementById("main");

const nudge = (input, event) => {
  const size = event.altKey ? 5 : event.shiftKey ? 0.1 : 0.5;
  const now = Number.parseFloat(input.value.replace(",", "."));
  const fixed = input.readOnly || input.classList.contains("balances");
  if (!/^\s*\+?[\d.,]+\s*$/.test(input.value) || Number.isNaN(now) || fixed) return;
  const next = Math.min(100, Math.max(0, now + (event.key === "ArrowUp" ? size : -size)));
  const onTop = input.value.trim().startsWith("+") ? "+" : "";
  const digits = String(Math.round(next * 1000) / 1000);
  input.value = onTop + digits.replace(".", document.body.dataset.decimalSign);
  input.dispatchEvent(new Event("change", { bubbles: true }));
};

// The selected line is the one that was used last. Letters act on it while no box has the focus.
let selected = null;
const select = (line) => {
  selected = line?.id ?? null;
  bench.querySelectorAll(".is-selected").forEach((other) => {
    other.classList.remove("is-selected");
  });
  line?.classList.add("is-selected");
};
const selectedLine = () => selected && document.getElementById(selected);
bench.addEventListener("focusin", (event) => select(event.target.closest("[data-line]") ?? selectedLine()));
bench.addEventListener("mouseup", (event) => {
  // What is saved is written over; what is being typed is edited.
  if (!event.target.matches("input.percent") || event.target.value !== event.target.dataset.was) return;
  event.preventDefault();
  event.target.select();
});
bench.addEventListener("click", (event) => {
  const line = event.target.closest("[data-line]");
  if (line && !event.target.closest("a, button, input, label, [tabindex='0']")) line.focus();
});
document.addEventListener("htmx:afterSettle", () => {
  select(selectedLine());
  const box = document.activeElement;
  if (box?.matches("input.percent") && box.value === box.dataset.was) box.select();
});

bench.addEventListener("keydown", (event) => {
  const box = event.target.closest("[data-line] input.percent");
  if (!box) return;
  if (event.key === "ArrowUp" || event.key === "ArrowDown") {
    event.preventDefault();
    nudge(box, event);
  }
  if (event.key === "Escape") {
    box.value = box.dataset.was;
    box.dispatchEvent(new Event("input", { bubbles: true }));
    box.closest("[data-line]").focus();
  }
});
// One Tab for each box; the arrows lead from its end to what can be done with its line, and back.
bench.addEventListener("keydown", (event) => {
  const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
  const line = event.target.closest("[data-line]");
  if (!step || !line) return;
  const box = line.querySelector("input.percent");
  const stops = [box, ...line.querySelectorAll(".line-end a, .line-end button")];
  const at = stops.indexOf(event.target);
  const leaves = event.target !== box || (step > 0 && box.selectionEnd === box.value.length);
  const next = stops[at + step];
  if (at < 0 || !leaves || !next) return;
  event.preventDefault();
  next.focus();
});
document.addEventListener("keydown", (event) => {
  if (!lettersAct(event)) return;
  if (event.key === "/") {
    event.preventDefault();
    document.getElementById("add-material")?.focus();
  }
  const line = selectedLine();
  if (!line) return;
  const box = line.querySelector("input.percent");
  if (box && (event.key === "ArrowUp" || event.key === "ArrowDown") && event.target === line) {
    event.preventDefault();
    nudge(box, event);
  }
  const button = { b: ".balance", l: ".lock", s: ".swap" }[event.key];
  if (button && !event.altKey) {
    event.preventDefault();
    line.querySelector(button)?.click();
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
  window.htmx.ajax("POST", form.dataset.address.replace("KEY", handle.dataset.key), {
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
