// Clocks: the time they ring at is the bench's, so a page that slept or was loaded anew is right again.
// A rehearsal has its own time, that may run faster; the page is told how fast.
const RING_EVERY_S = 10;
const title = document.title;
let sound = null;
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

// A clock that is up says so once to whoever does not see it.
const up = new Set();
const sayUp = (clock) => {
  if (up.has(clock.id)) return;
  up.add(clock.id);
  document.getElementById("spoken").textContent = `Time is up: ${clock.dataset.title}`;
};

// What the bench's clock said last, and when the page heard it: one for all pots on the stove, one for a
// rehearsal, that has its own.
const heard = new Map();
const sourceOf = (clock) =>
  clock.closest("#stove") ?? document.getElementById("live") ?? clock.closest("[data-now]");
const nowAt = (source) => {
  const { now, speed } = source.dataset;
  // An answer that only renewed another part of the page says an old time again.
  if (heard.get(source.id)?.said !== now)
    heard.set(source.id, { said: now, at: Date.now(), speed: Number(speed ?? 1) });
  const last = heard.get(source.id);
  return Math.round(Number(last.said) + ((Date.now() - last.at) / 1000) * last.speed);
};
const tick = () => {
  const clocks = [...document.querySelectorAll("[data-rings]")];
  const left = clocks.map((clock) => Number(clock.dataset.rings) - nowAt(sourceOf(clock)));
  clocks.forEach((clock, n) => {
    clock.classList.toggle("is-up", left[n] <= 0);
    if (left[n] <= 0) sayUp(clock);
    else up.delete(clock.id);
    clock.querySelector("[data-left]").textContent = left[n] > 0 ? told(left[n]) : "Time is up";
  });
  const first = Math.min(...left);
  if (!clocks.length) document.title = title;
  else document.title = first > 0 ? `${told(first)} · ${title}` : `Time is up · ${title}`;
  if (first <= 0 && -first % RING_EVERY_S === 0) ring();
  const note = document.querySelector(".mute-note");
  if (note) note.hidden = !clocks.length || sound?.state === "running";
};
document.addEventListener("htmx:afterSettle", tick);
tick();
setInterval(tick, 1000);
