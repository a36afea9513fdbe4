// The trio map: drag the point; on letting go the three boxes follow and the server answers.
const CORNERS = [
  [280, 34],
  [40, 450],
  [520, 450],
];

const sharesAt = (x, y) => {
  const [[ax, ay], [bx, by], [cx, cy]] = CORNERS;
  const area = (by - cy) * (ax - cx) + (cx - bx) * (ay - cy);
  const wax = ((by - cy) * (x - cx) + (cx - bx) * (y - cy)) / area;
  const butter = ((cy - ay) * (x - cx) + (ax - cx) * (y - cy)) / area;
  const inside = [wax, butter, 1 - wax - butter].map((share) => Math.max(0, share));
  const whole = inside[0] + inside[1] + inside[2];
  return inside.map((share) => share / whole);
};

let dragging = false;
let shares = null;

const follow = (event) => {
  const map = document.getElementById("trio-map");
  const spot = new DOMPoint(event.clientX, event.clientY).matrixTransform(map.getScreenCTM().inverse());
  shares = sharesAt(spot.x, spot.y);
  const x = shares.reduce((sum, share, i) => sum + share * CORNERS[i][0], 0);
  const y = shares.reduce((sum, share, i) => sum + share * CORNERS[i][1], 0);
  document
    .getElementById("trio-here")
    .setAttribute("transform", `translate(${x.toFixed(1)} ${y.toFixed(1)})`);
};

document.addEventListener("pointerdown", (event) => {
  if (!event.target.closest("#trio-map")) return;
  dragging = true;
  event.preventDefault();
  follow(event);
});
document.addEventListener("pointermove", (event) => {
  if (dragging) follow(event);
});
document.addEventListener("pointerup", () => {
  if (!dragging) return;
  dragging = false;
  ["wax", "butter", "oil"].forEach((name, i) => {
    document.getElementById(name).value = (100 * shares[i]).toFixed(1);
  });
  document.getElementById("trio-form").requestSubmit();
});
