// All drawings of a clip from one file: how many, how long each is, and then the pictures. As Drawings to whoever asks.

import { Drawings, fetchAgain } from "./drawings.js";

const NUMBER = 4;

export class Packed extends Drawings {
  async load(told) {
    const waiting = this.numbers.filter((number) => !this.kept.has(number));
    if (waiting.length === 0) return;
    const parts = partsOf(await (await fetchAgain(this.base)).arrayBuffer());
    await Promise.all(waiting.map(async (number) => {
      this.kept.set(number, await createImageBitmap(new Blob([parts[number - 1]])));
      told(this.kept.size, this.numbers.length);
    }));
  }
}

/** The pictures of a packed file, in order. */
export function partsOf(buffer) {
  const view = new DataView(buffer);
  const count = view.getUint32(0, true);
  let at = NUMBER * (count + 1);
  return Array.from({ length: count }, (_, i) => {
    const size = view.getUint32(NUMBER * (i + 1), true);
    at += size;
    return buffer.slice(at - size, at);
  });
}
