// A take's own sound, kept in step with its frames: heard while the clip plays at its rate, silent otherwise.

import { FULL } from "./clock.js";

const ASTRAY_S = 0.08;

export function keepInStep(audio, clock) {
  const place = () => (clock.frame - 1) / clock.fps;
  const follow = () => {
    const heard = clock.playing && clock.speed === FULL && place() < (audio.duration || Infinity);
    if (!heard) {
      audio.pause();
      return;
    }
    if (Math.abs(audio.currentTime - place()) > ASTRAY_S) audio.currentTime = place();
    // A browser may refuse sound until the page was touched; the clip plays on without.
    if (audio.paused) audio.play().catch(() => {});
  };
  clock.addEventListener("frame", follow);
  clock.addEventListener("state", follow);
}
