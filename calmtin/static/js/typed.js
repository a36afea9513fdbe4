// What was typed is never lost: a box that was not saved says so, beside it, until it is.

import { keepHere, keptHere, ready } from "./outbox.js";

// Boxes that are saved as they are left: their form asks on every change.
// A weight that is typed in a mode is sent as a whole, when its form is left: [data-waits].
const waits = (form) => form?.dataset.waits !== undefined;
const isEdit = (box) =>
  box?.dataset?.was !== undefined &&
  (waits(box.form) || Boolean(box.form?.getAttribute("hx-trigger")?.includes("change")));
const send = (box) => window.htmx.trigger(waits(box.form) ? box.form : box, waits(box.form) ? "submit" : "change");
const isUnsaved = (box) => isEdit(box) && box.value !== box.dataset.was;
const edits = () => [...document.querySelectorAll("[data-was]")].filter(isEdit);

// Why the box with this id was not saved, and what to press: {words, act, href, again}.
const failed = new Map();

// What is kept of boxes that this state of the page does not show, and where each of them is shown.
const elsewhere = () => keptHere().filter(({ box, at }) => at && !isEdit(document.getElementById(box)));

const nameOf = (box) => (box.labels?.[0]?.textContent ?? box.getAttribute("aria-label") ?? "").trim();
const entryOf = (box) => {
  const { form } = box;
  const sends = [...new FormData(form)].filter(([name]) => name !== "csrfmiddlewaretoken");
  return {
    box: box.id,
    value: box.value,
    words: `${nameOf(box)} ${box.value}`.trim(),
    again: Boolean(failed.get(box.id).again),
    after: form.elements.after?.value,
    mode: form.elements.mode?.value,
    at: form.dataset.at,
    url: (box.closest("[hx-post]") ?? form).getAttribute("hx-post"),
    sends,
  };
};

// Boxes whose form was answered just now: what they held has arrived, unless it is shown as wrong.
let arrived = [];
const hasArrived = (id) => arrived.includes(id) && !document.getElementById(id)?.hasAttribute("aria-invalid");

const keep = () => {
  const unsaved = edits().filter((box) => box.id && isUnsaved(box) && failed.has(box.id));
  keepHere([...elsewhere().filter(({ box }) => !hasArrived(box)), ...unsaved.map(entryOf)]);
  arrived = [];
};

// What a page asks for by itself saves nothing: its failing is nobody's trouble, its answer no edit's.
const isBackground = (event) => event.detail.elt?.matches?.("[data-background]");

const noteFor = (box, { words, act, href }) => {
  const note = document.createElement("p");
  note.className = "wrong not-saved";
  note.setAttribute("role", "alert");
  note.append(`${words} `);
  const next = document.createElement(href ? "a" : "button");
  next.className = "btn-plain";
  next.textContent = act;
  if (href) {
    next.href = href;
  } else {
    next.type = "button";
    next.addEventListener("click", () => send(box));
  }
  note.append(next);
  return note;
};

// While the bench cannot be reached, what was typed is sent again by itself until it answers.
const AGAIN_MS = 3000;
let waiting = null;
const sendAgain = () => {
  window.clearTimeout(waiting);
  waiting = null;
  for (const box of edits())
    if (isUnsaved(box) && failed.get(box.id)?.again) send(box);
};
const isWaiting = () => edits().some((box) => failed.get(box.id)?.again);
window.addEventListener("online", sendAgain);
document.addEventListener("visibilitychange", () => {
  if (document.visibilityState === "visible" && waiting) sendAgain();
});

const show = () => {
  document.querySelectorAll(".not-saved").forEach((note) => {
    note.remove();
  });
  edits().forEach((box) => {
    const unsaved = isUnsaved(box);
    box.classList.toggle("is-unsaved", unsaved);
    if (!unsaved) failed.delete(box.id);
    const why = failed.get(box.id);
    if (why) (box.closest("[data-line]") ?? box.form).append(noteFor(box, why));
  });
  keep();
  if (isWaiting()) waiting ??= window.setTimeout(sendAgain, AGAIN_MS);
};

document.addEventListener("input", (event) => {
  const box = event.target;
  if (isEdit(box)) box.classList.toggle("is-unsaved", isUnsaved(box));
});

// An answer must not wipe what was typed since it was asked for: a box that differs from
// what the server last said keeps its text until its own form is answered.
let answered = null;
let sent = null;
let unchanged = null;
const asked = new WeakMap();
document.addEventListener("htmx:beforeRequest", (event) => {
  const form = event.detail.elt;
  if (form.matches?.("form")) asked.set(event.detail.xhr, new FormData(form));
});
document.addEventListener("htmx:beforeSwap", (event) => {
  answered = event.detail.requestConfig.elt;
  if (!event.detail.isError) arrived = edits().flatMap((box) => (box.id && box.form === answered ? [box.id] : []));
  sent = asked.get(event.detail.xhr);
  const box = document.activeElement;
  // Only of a box: of anything else in focus, what is inside would not be renewed.
  window.Idiomorph.defaults.ignoreActiveValue = box?.matches("input, select, textarea");
  unchanged = box?.dataset?.was !== undefined && box.value === box.dataset.was ? box.id : null;
});
// A box of the answered form takes the answer, unless it was typed in again meanwhile.
const isAnswered = (box) => box.form === answered && (!sent || sent.get(box.name) === box.value);

// The box in use is left alone by the morph; it follows when nothing new was typed in it,
// or when it is the one that was answered: it then says what its text came to.
document.addEventListener("htmx:afterSwap", () => {
  const box = document.activeElement;
  if (box?.dataset?.was && !box.hasAttribute("aria-invalid")) {
    if (isAnswered(box) || (box.id && box.id === unchanged)) box.value = box.dataset.was;
  }
});
document.addEventListener("htmx:afterSettle", (event) => {
  // A note that is about to be pressed must not be drawn anew under the finger.
  if (isBackground(event)) return;
  show();
  // The next one that waits is shown where it can be saved.
  const [other] = elsewhere();
  if (other && !failed.size) window.location.replace(other.at);
});
window.Idiomorph.defaults.callbacks.beforeNodeMorphed = (old, fresh) => {
  // A reading that still waits comes after the one that the page showed when it was typed.
  if (old.name === "after" && old.form !== answered && edits().some((b) => b.form === old.form && isUnsaved(b)))
    fresh.setAttribute("value", old.value);
  // So does the mode in which it was typed.
  if (old.name === "mode" && old.form !== answered && edits().some((b) => b.form === old.form && isUnsaved(b)))
    fresh.toggleAttribute("checked", old.checked);
  if (old.dataset?.was === undefined || old.value === old.dataset.was || isAnswered(old)) return;
  if (old.matches("select")) {
    fresh.querySelector(`option[value="${CSS.escape(old.value)}"]`)?.setAttribute("selected", "");
  } else {
    fresh.setAttribute("value", old.value);
    fresh.value = old.value;
  }
};

// What failed, in words that say what to do.
const reason = (xhr) => {
  const back = `${window.location.pathname}${window.location.search}`;
  if (!xhr?.status)
    return {
      words: "The bench cannot be reached, so this is not saved yet. It is sent as soon as it answers.",
      act: "Try again",
      again: true,
    };
  if (xhr.status === 401)
    return {
      words: "You are signed out, so this is not saved yet. What you typed is kept.",
      act: "Sign in again",
      href: `/sign-in/?next=${encodeURIComponent(back)}`,
    };
  if (xhr.status === 403)
    return {
      words: "This page was open for too long, so this is not saved yet. What you typed is kept.",
      act: "Reload the page",
      href: back,
    };
  const told = xhr.getResponseHeader("Content-Type")?.startsWith("text/plain") && xhr.responseText;
  return { words: told || "That did not work, so this is not saved yet.", act: "Try again" };
};

const trouble = (why) => {
  const bar = document.getElementById("trouble");
  if (!bar) return;
  bar.replaceChildren();
  bar.hidden = !why;
  if (!why) return;
  bar.append(`${why.words} `);
  if (why.href) {
    const link = document.createElement("a");
    link.href = why.href;
    link.textContent = why.act;
    bar.append(link);
  }
};

const refuse = (event) => {
  if (isBackground(event)) return;
  const why = reason(event.detail.xhr);
  const form = event.detail.elt.closest?.("form");
  const boxes = form ? edits().filter((box) => box.form === form && isUnsaved(box)) : [];
  boxes.forEach((box) => {
    failed.set(box.id, why);
  });
  if (!boxes.length) trouble(why);
  show();
};
document.addEventListener("htmx:responseError", refuse);
document.addEventListener("htmx:sendError", refuse);
document.addEventListener("htmx:timeout", refuse);
document.addEventListener("htmx:afterOnLoad", (event) => {
  if (!isBackground(event) && !event.detail.failed && event.detail.xhr.status < 400) trouble(null);
});

// Back on the page, after signing in, reloading or a closed tab: what was not saved stands in its box again.
const restore = () => {
  for (const { box: id, value, again, after, mode } of keptHere()) {
    const box = document.getElementById(id);
    if (!isEdit(box) || box.value === value) continue;
    box.value = value;
    if (after) box.form.elements.after.value = after;
    if (mode && box.form.elements.mode) box.form.elements.mode.value = mode;
    failed.set(id, { words: "This is not saved yet.", act: "Save it now", again });
  }
  show();
  const [other] = elsewhere();
  if (other && !isWaiting()) window.location.replace(other.at);
};
if (document.body.dataset.maker) ready.then(restore);
