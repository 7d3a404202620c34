// How long a person is at a page: the time between two signs of life, where the second comes soon enough.

const SIGNS = ["pointerdown", "pointermove", "keydown", "wheel"];
const AWAY_S = 45;

export class Spent {
  constructor(target, now = () => performance.now()) {
    this.now = now;
    this.last = now();
    this.seconds = 0;
    SIGNS.forEach((sign) => target.addEventListener(sign, () => this.alive(), { passive: true }));
  }

  alive() {
    const since = (this.now() - this.last) / 1000;
    if (since <= AWAY_S) this.seconds += since;
    this.last = this.now();
  }

  /** The whole seconds since they were last taken. */
  take() {
    this.alive();
    const whole = Math.floor(this.seconds);
    this.seconds -= whole;
    return whole;
  }
}
