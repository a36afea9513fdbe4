// A bench that follows the device: dark where the device is.
const page = document.documentElement;
if (page.dataset.bsTheme === "auto") {
  const dark = matchMedia("(prefers-color-scheme: dark)");
  const follow = () => (page.dataset.bsTheme = dark.matches ? "dark" : "light");
  dark.addEventListener("change", follow);
  follow();
}
