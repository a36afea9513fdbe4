{% load static %}// Only when the bench cannot be reached: a page that says so. Nothing else is ever kept or answered here.
const KEPT = "calm-tin {% static 'css/calm.css' %}";
const PAGE = "{% url 'away' %}";
const NEEDED = [
  PAGE,
  "{% static 'vendor/bootstrap-5.3.9.min.css' %}",
  "{% static 'css/calm.css' %}",
  "{% static 'js/away.js' %}",
  "{% static 'fonts/atkinson-hyperlegible-next-latin-400-normal.woff2' %}",
  "{% static 'fonts/atkinson-hyperlegible-next-latin-700-normal.woff2' %}",
];

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(KEPT).then((kept) => kept.addAll(NEEDED)));
  self.skipWaiting();
});

self.addEventListener("activate", (event) => {
  const old = caches.keys().then((names) => Promise.all(names.filter((n) => n !== KEPT).map((n) => caches.delete(n))));
  event.waitUntil(old);
});

self.addEventListener("fetch", (event) => {
  const { request } = event;
  if (request.mode === "navigate" && request.method === "GET") {
    event.respondWith(fetch(request).catch(() => caches.match(PAGE)));
  } else if (NEEDED.includes(new URL(request.url).pathname)) {
    event.respondWith(fetch(request).catch(() => caches.match(request)));
  }
});
