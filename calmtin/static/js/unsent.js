// A form that was sent while nobody was signed in, or that failed, comes back filled in.

const SENT = "calm-sent";
const FAILED = "calm-unsent";
const SKIPPED = ["csrfmiddlewaretoken", "request_key", "seen"];
const forms = () => [...document.querySelectorAll("main form:not([hx-post])")];

const { maker, unsent } = document.body.dataset;
const fields = (form) =>
  [...form.elements].filter(
    (field) => field.name && !SKIPPED.includes(field.name) && !["password", "file"].includes(field.type),
  );

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (!maker || form.method !== "post" || form.matches("[hx-post]")) return;
  const values = fields(form)
    .filter((field) => field.type !== "submit" && field.type !== "button")
    .map((field) => [field.name, field.value, Boolean(field.checked)]);
  const entry = { maker, path: window.location.pathname, place: forms().indexOf(form), values };
  sessionStorage.setItem(SENT, JSON.stringify(entry));
});

const fill = (form, values) => {
  for (const [name, value, checked] of values) {
    const found = fields(form).filter((field) => field.name === name);
    const box = found.find((field) => !["radio", "checkbox"].includes(field.type));
    const choice = found.find((field) => field.value === value);
    if (box && box.type !== "hidden") box.value = value;
    else if (choice && !box) choice.checked = checked;
  }
  form.closest("details")?.setAttribute("open", "");
  const note = document.createElement("p");
  note.className = "wrong";
  note.setAttribute("role", "alert");
  note.textContent = "This was not saved yet. What you typed is here again; send it once more.";
  form.prepend(note);
  note.scrollIntoView({ block: "nearest" });
};

if (unsent !== undefined) {
  sessionStorage.setItem(FAILED, "yes");
} else if (maker) {
  const entry = JSON.parse(sessionStorage.getItem(SENT) ?? "null");
  const isBack = sessionStorage.getItem(FAILED) && entry?.maker === maker;
  if (isBack && entry.path === window.location.pathname && forms()[entry.place])
    fill(forms()[entry.place], entry.values);
  sessionStorage.removeItem(FAILED);
  if (!isBack || entry.path === window.location.pathname) sessionStorage.removeItem(SENT);
}
