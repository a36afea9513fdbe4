// What could not be sent waits in the browser's own database, for the whole site, and goes from any page.
import { get, update } from "../vendor/idb-keyval-6.3.0.js";

const { maker } = document.body.dataset;
const STORE = "calm-waiting";
const AGAIN_MS = 3000;
const here = window.location.pathname;
const strip = document.getElementById("waiting");

// An entry: {maker, path, box, value, words, again, after, mode, at, url, sends}. `again` is whether it
// only waits for the connection, `at` where its box is shown, `sends` what its form sends to `url`.
let entries = [];
const sent = [];
export const ready = maker
  ? get(STORE)
      .catch(() => undefined)
      .then((found) => {
        entries = found ?? [];
      })
  : Promise.resolve();

const change = (changed) => {
  entries = changed(entries);
  if (maker) update(STORE, (all) => changed(all ?? [])).then(noteStored, () => {});
  show();
};
// How many entries the database holds for sure, for whoever has to know that a tab may be closed.
const noteStored = () => {
  if (strip) strip.dataset.stored = String(entries.length);
};
const isMine = (entry) => entry.maker === maker;
const isHere = (entry) => isMine(entry) && entry.path === here;
const isSame = (one, other) => one.maker === other.maker && one.path === other.path && one.box === other.box;

export const keptHere = () => entries.filter(isHere);
export const keepHere = (kept) => {
  if (!kept.length && !keptHere().length) return;
  const mine = kept.map((entry) => ({ maker, path: here, ...entry }));
  change((all) => [...all.filter((entry) => !isHere(entry)), ...mine]);
};

const line = (words, entry) => {
  const found = document.createElement("p");
  found.append(`${words} `);
  if (entry) {
    const link = document.createElement("a");
    link.href = entry.at ? new URL(entry.at, new URL(entry.path, window.location.origin)).href : entry.path;
    link.textContent = "Open its page";
    found.append(link);
  }
  return found;
};

const show = () => {
  if (!strip) return;
  const mine = entries.filter((entry) => isMine(entry) && !isHere(entry));
  const others = entries.filter((entry) => !isMine(entry)).length;
  const lines = [
    ...sent.map((words) => line(`Saved now: ${words}.`)),
    ...mine.map((entry) =>
      entry.again
        ? line(`Waiting for the bench: ${entry.words}. It is sent as soon as it answers.`)
        : line(`Not saved yet: ${entry.words}.`, entry),
    ),
  ];
  if (others)
    lines.push(line("Somebody else typed something here that is not saved yet. It is kept until they sign in."));
  strip.replaceChildren(...lines);
  strip.hidden = !lines.length;
};

// Whether the bench took what was sent: it shows the box again with what is wrong where it did not.
const wasTaken = async (answer, entry) => {
  if (!answer.ok || answer.headers.has("HX-Redirect")) return false;
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  return !page.getElementById(entry.box)?.hasAttribute("aria-invalid");
};

const send = async (entry) => {
  const body = new URLSearchParams(entry.sends);
  body.set("csrfmiddlewaretoken", document.querySelector("[name=csrfmiddlewaretoken]")?.value ?? "");
  const answer = await fetch(entry.url, { method: "POST", body, headers: { "HX-Request": "true" } });
  if (answer.status === 401 || answer.status === 403) return;
  if (await wasTaken(answer, entry)) {
    sent.push(entry.words);
    change((all) => all.filter((other) => !isSame(other, entry)));
  } else {
    change((all) => all.map((other) => (isSame(other, entry) ? { ...other, again: false } : other)));
  }
};

// One tab sends; where there are no locks, the bench itself refuses what it has already.
const alone = (act) =>
  navigator.locks ? navigator.locks.request(STORE, { ifAvailable: true }, (lock) => lock && act()) : act();

let waiting = null;
const sendOthers = async () => {
  window.clearTimeout(waiting);
  waiting = null;
  try {
    for (const entry of entries.filter((one) => isMine(one) && !isHere(one) && one.again && one.url))
      await alone(() => send(entry));
  } catch {
    // still away
  }
  if (entries.some((entry) => isMine(entry) && !isHere(entry) && entry.again))
    waiting ??= window.setTimeout(sendOthers, AGAIN_MS);
};

if (maker) {
  ready.then(() => {
    show();
    sendOthers();
  });
  window.addEventListener("online", sendOthers);
  document.addEventListener("visibilitychange", () => {
    if (document.visibilityState === "visible") sendOthers();
  });
}
