// A take's own sound, kept in step with its frames: heard while the clip plays at its rate, silent otherwise.

import { FULL } from "./clock.js";

const ASTRAY_S = 0.12;

export async function keepInStep(audio, clock) {
  // Fetched whole, since it can only be put back to a frame's time when all of it is at hand.
  const answer = await fetch(audio.dataset.sound).catch(() => null);
  if (!answer?.ok) return;
  audio.src = URL.createObjectURL(await answer.blob());
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
