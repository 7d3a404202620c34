// The one clock of a page: which frame shows, and whether time runs. Knows no page; tested on its own.

export const FULL = 1;
export const QUARTER = 0.25;

/** Dispatches "frame" when another frame shows, and "state" when playing, looping or speed change. */
export class Clock extends EventTarget {
  constructor({ frames, fps, now = () => performance.now(), schedule = (f) => requestAnimationFrame(f) }) {
    super();
    this.frames = frames;
    this.fps = fps;
    this.frame = 1;
    this.playing = false;
    this.loop = true;
    this.speed = FULL;
    this.now = now;
    this.schedule = schedule;
    this.started = 0;
    this.startFrame = 1;
  }

  goTo(frame) {
    const wanted = Math.min(this.frames, Math.max(1, Math.round(frame)));
    if (wanted === this.frame) return;
    this.frame = wanted;
    this.dispatchEvent(new Event("frame"));
  }

  /** Stop, then go to a frame: what stepping and scrubbing do. */
  stopAt(frame) {
    this.pause();
    this.goTo(frame);
  }

  play() {
    if (this.playing) return;
    if (this.frame >= this.frames) this.goTo(1);
    this.playing = true;
    this.startFrom(this.frame);
    this.announce();
    this.schedule(() => this.tick());
  }

  pause() {
    if (!this.playing) return;
    this.playing = false;
    this.announce();
  }

  toggle() {
    if (this.playing) this.pause();
    else this.play();
  }

  setLoop(loop) {
    this.loop = loop;
    this.announce();
  }

  setSpeed(speed) {
    this.speed = speed;
    this.startFrom(this.frame);
    this.announce();
  }

  startFrom(frame) {
    this.started = this.now();
    this.startFrame = frame;
  }

  announce() {
    this.dispatchEvent(new Event("state"));
  }

  /** Frames follow the time that has passed, so that a slow picture never slows the clip down. */
  tick() {
    if (!this.playing) return;
    const rate = (this.fps * this.speed) / 1000;
    const due = this.startFrame - 1 + (this.now() - this.started) * rate + 1e-6;
    if (due < this.frames) {
      this.goTo(Math.floor(due) + 1);
    } else if (this.loop) {
      // Each round starts when it was due, not when it was drawn, so that a loop keeps its rate.
      const again = due % this.frames;
      this.goTo(Math.floor(again) + 1);
      this.started = this.now() - again / rate;
      this.startFrame = 1;
    } else {
      this.goTo(this.frames);
      this.pause();
      return;
    }
    this.schedule(() => this.tick());
  }
}

/** Let a clock of another rate or length run when one runs; while that stands, stand on the same frame. */
export function keepStep(other, clock) {
  other.setLoop(clock.loop);
  if (other.speed !== clock.speed) other.setSpeed(clock.speed);
  if (clock.playing && !other.playing) other.play();
  if (!clock.playing) other.stopAt(clock.frame);
}
