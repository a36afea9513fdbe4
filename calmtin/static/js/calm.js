// What every page needs. Each module minds one promise.
import "./enter.js";
import "./install.js";
import "./keypad.js";
import "./keys.js";
import "./sending.js";
import "./spoken.js";
import "./typed.js";
import "./unsent.js";
import "./uploads.js";
