// The run sheet: Space or Enter marks the step as done, and the screen stays awake where the browser allows.
import "../js/awake.js";
import { lettersAct } from "../js/keys.js";

document.addEventListener("keydown", (event) => {
  if (!lettersAct(event) || ![" ", "Enter"].includes(event.key)) return;
  if (event.target.closest("a, button, input, select, summary")) return;
  event.preventDefault();
  document.querySelector("[data-next]")?.click();
});

// What was logged stands on the page: the boxes of that form are for the next one, the others keep theirs.
document.addEventListener("htmx:afterSettle", (event) => {
  const form = event.detail.requestConfig?.elt;
  if (!form?.matches("form") || form.querySelector("[aria-invalid]")) return;
  form.querySelectorAll("input[type='text']").forEach((box) => {
    box.value = box.defaultValue;
  });
});

// Clocks: the time they ring at is the bench's, so a page that slept or was loaded anew is right again.
const RING_EVERY_S = 10;
const title = document.title;
let sound = null;
let skew = 0;
const unlock = () => {
  sound ??= new window.AudioContext();
};
document.addEventListener("pointerdown", unlock, { once: true });
document.addEventListener("keydown", unlock, { once: true });

const ring = () => {
  if (sound?.state !== "running") return;
  for (const n of [0, 1, 2]) {
    const tone = new window.OscillatorNode(sound, { frequency: 880 });
    const soft = new window.GainNode(sound, { gain: 0.2 });
    tone.connect(soft).connect(sound.destination);
    tone.start(sound.currentTime + n * 0.35);
    tone.stop(sound.currentTime + n * 0.35 + 0.2);
  }
};

const told = (seconds) => {
  const [h, m, s] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60];
  const two = (n) => String(n).padStart(2, "0");
  return h ? `${h}:${two(m)}:${two(s)}` : `${m}:${two(s)}`;
};

const tick = () => {
  const now = Math.round(Date.now() / 1000 + skew);
  const clocks = [...document.querySelectorAll("[data-rings]")];
  const left = clocks.map((clock) => Number(clock.dataset.rings) - now);
  clocks.forEach((clock, n) => {
    clock.classList.toggle("is-up", left[n] <= 0);
    clock.querySelector("[data-left]").textContent = left[n] > 0 ? told(left[n]) : "Time is up";
  });
  const first = Math.min(...left);
  if (!clocks.length) document.title = title;
  else document.title = first > 0 ? `${told(first)} · ${title}` : `Time is up · ${title}`;
  if (first <= 0 && -first % RING_EVERY_S === 0) ring();
};
const follow = () => {
  skew = Number(document.getElementById("run").dataset.now) - Date.now() / 1000;
  tick();
};
document.addEventListener("htmx:afterSettle", follow);
follow();
setInterval(tick, 1000);
