// A tick at every contact, or whatever its moments are, while the clip plays, so that its rhythm can be heard.

const LENGTH_S = 0.06;
const PITCH_HZ = 320;

export class Ticks {
  constructor(player) {
    this.player = player;
    this.on = false;
    this.context = null;
    this.last = player.clock.frame;
    player.clock.addEventListener("frame", () => this.frame());
  }

  toggle() {
    this.on = !this.on;
    // A browser lets a page sound only after somebody did something on it: here, just now.
    if (this.on) this.context ||= new AudioContext();
    this.player.pressed("ticks", this.on);
  }

  frame() {
    const { clock, data } = this.player;
    // A slow page may pass over frames; their moments are heard all the same.
    const since = this.last < clock.frame ? this.last : 0;
    const passed = data.moments.some((moment) => since < moment && moment <= clock.frame);
    this.last = clock.frame;
    if (this.on && clock.playing && passed) this.sound();
  }

  sound() {
    const { context } = this;
    const tone = context.createOscillator();
    const loud = context.createGain();
    tone.frequency.value = PITCH_HZ;
    loud.gain.setValueAtTime(0.25, context.currentTime);
    loud.gain.exponentialRampToValueAtTime(0.001, context.currentTime + LENGTH_S);
    tone.connect(loud).connect(context.destination);
    tone.start();
    tone.stop(context.currentTime + LENGTH_S);
    this.player.element.dataset.ticked = String(this.player.clock.frame);
  }
}
