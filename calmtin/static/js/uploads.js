// Pictures are made smaller before they are sent; a large file goes up in parts, with its progress.

const LONGEST = 1600; // points a side, as the server keeps them
const LARGE = 700_000; // bytes, from which a picture is made smaller
const PART = 4_000_000; // bytes of one part

const say = (box, words, isWrong = false) => {
  const id = `${box.id}-upload`;
  document.getElementById(id)?.remove();
  if (!words) return;
  const note = document.createElement("p");
  note.id = id;
  note.className = isWrong ? "wrong" : "quiet small";
  note.setAttribute("role", isWrong ? "alert" : "status");
  note.textContent = words;
  box.after(note);
};
const megabytes = (bytes) => `${(bytes / 1_000_000).toFixed(1)} MB`;

const smaller = async (file) => {
  const whole = await createImageBitmap(file, { imageOrientation: "from-image" });
  const share = Math.min(1, LONGEST / Math.max(whole.width, whole.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(whole.width * share);
  canvas.height = Math.round(whole.height * share);
  canvas.getContext("2d").drawImage(whole, 0, 0, canvas.width, canvas.height);
  whole.close();
  const made = await new Promise((done) => canvas.toBlob(done, "image/jpeg", 0.85));
  return new File([made], "picture.jpg", { type: "image/jpeg" });
};

document.addEventListener("change", async (event) => {
  const box = event.target;
  const file = box.type === "file" && box.accept.startsWith("image/") ? box.files[0] : null;
  if (box.type === "file") say(box, "");
  if (!file || file.size < LARGE) return;
  try {
    const made = await smaller(file);
    if (box.files[0] !== file || made.size >= file.size) return;
    const files = new DataTransfer();
    files.items.add(made);
    box.files = files.files;
    say(box, `Made smaller to send: ${megabytes(file.size)} became ${megabytes(made.size)}.`);
  } catch {
    // No picture that this browser can read: the server says what it takes.
    if (file.size > Number(box.dataset.most ?? Infinity))
      say(box, `The picture has ${megabytes(file.size)}. Send one of up to ${megabytes(box.dataset.most)}.`, true);
  }
});

const sendParts = async (form, box, file) => {
  const bar = document.createElement("progress");
  bar.max = file.size;
  bar.setAttribute("aria-label", "Sent");
  box.after(bar);
  const token = form.elements.csrfmiddlewaretoken.value;
  for (let at = 0; at < file.size || at === 0; at += PART) {
    const body = new FormData();
    body.append("at", at);
    body.append("size", file.size);
    body.append("part", file.slice(at, at + PART));
    const answer = await fetch(form.dataset.parts, {
      method: "POST",
      headers: { "X-CSRFToken": token, "HX-Request": "true" },
      body,
    });
    if (!answer.ok) throw new Error(await answer.text());
    bar.value = Math.min(at + PART, file.size);
  }
};

document.addEventListener(
  "submit",
  async (event) => {
    const form = event.target;
    const box = form.dataset.parts ? form.querySelector("input[type=file]") : null;
    const file = box?.files[0];
    if (!file || box.disabled || file.size <= PART) return; // disabled: its parts are there
    event.preventDefault();
    event.stopImmediatePropagation();
    const button = form.querySelector("button:not([data-enter])");
    button.disabled = true;
    try {
      await sendParts(form, box, file);
      const sent = document.createElement("input");
      Object.assign(sent, { type: "hidden", name: "sent_in_parts", value: "yes" });
      form.append(sent);
      box.disabled = true;
      form.requestSubmit();
    } catch (error) {
      say(box, error.message || "The bench cannot be reached. Nothing was changed; try again.", true);
      form.querySelector("progress")?.remove();
      button.disabled = false;
    }
  },
  true,
);
