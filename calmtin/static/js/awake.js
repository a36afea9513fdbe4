// The screen stays on while a page of pour day is open, where the browser allows it.
const stayAwake = async () => {
  try {
    if (document.visibilityState === "visible") await navigator.wakeLock?.request("screen");
  } catch {
    // A browser that saves power says no; the page is the same without.
  }
};
document.addEventListener("visibilitychange", stayAwake);
stayAwake();
