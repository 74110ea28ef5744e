// The time that is left, by the server's clock: the device's own clock is never asked.

const WARNINGS = [10, 5, 1];

function words(seconds) {
  if (seconds >= 172_800) return `${Math.floor(seconds / 86_400)} days`;
  if (seconds >= 3600) return `${Math.floor(seconds / 3600)} h ${Math.floor((seconds % 3600) / 60)} min`;
  if (seconds >= 600) return `${Math.ceil(seconds / 60)} min`;
  return `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;
}

export class Clock {
  /** `show(text)` shows the time left, `warn(text)` says it once, `up()` is called when there is none left. */
  constructor({ show, warn, up }) {
    Object.assign(this, { show, warn, up });
    this.left = null;
    this.warned = new Set();
    setInterval(() => this.tick(), 500);
  }

  /** What the server says is left, in seconds; nothing where there is no end. */
  set(left, runs) {
    const first = this.left === null;
    this.left = left;
    this.runs = runs;
    this.from = performance.now();
    // what has passed already is not warned of
    if (first && left !== null) for (const minutes of WARNINGS) if (left < minutes * 60) this.warned.add(minutes);
    if (left !== null) for (const minutes of WARNINGS) if (left > minutes * 60) this.warned.delete(minutes);
    this.isUp = false;
    this.tick();
  }

  get seconds() {
    if (this.left === null) return null;
    return Math.max(0, this.left - (this.runs ? (performance.now() - this.from) / 1000 : 0));
  }

  tick() {
    const seconds = this.seconds;
    if (seconds === null) return this.show("no limit");
    this.show(words(seconds));
    for (const minutes of WARNINGS) {
      if (seconds <= minutes * 60 && !this.warned.has(minutes)) {
        this.warned.add(minutes);
        this.warn(`${minutes} minute${minutes === 1 ? "" : "s"} left.`);
      }
    }
    if (seconds === 0 && this.runs && !this.isUp) {
      this.isUp = true;
      this.up();
    }
  }
}
