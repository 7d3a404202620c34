// Fetches a clip's drawings once and keeps them decoded, so that stepping never waits.

const AT_ONCE = 6;
const MOST_TRIES = 120;

export class Drawings {
  constructor(base, numbers) {
    this.base = base;
    this.numbers = numbers;
    this.kept = new Map();
  }

  get(number) {
    return this.kept.get(number) || null;
  }

  /** Have those that are the same as another clip's from there, by number; what is not there yet is fetched. */
  share(others, same) {
    Object.entries(same).forEach(([number, there]) => {
      const picture = others.get(there);
      if (picture) this.kept.set(Number(number), picture);
    });
  }

  /** Fetch all, the first ones first; `told` is called with how many are there. */
  async load(told) {
    const waiting = this.numbers.filter((number) => !this.kept.has(number));
    const worker = async () => {
      while (waiting.length > 0) {
        const number = waiting.shift();
        this.kept.set(number, await fetchPicture(`${this.base}${number}.png`));
        told(this.kept.size, this.numbers.length);
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, worker));
  }
}

async function fetchPicture(url) {
  return createImageBitmap(await (await fetchAgain(url)).blob());
}

/** Fetch pictures, and wait while they are drawn again. */
export async function fetchAgain(url) {
  let answer = await fetch(url);
  // A drawing that was not kept is drawn again from the clip, which takes a moment.
  for (let tries = 0; answer.status === 503 && tries < MOST_TRIES; tries += 1) {
    await new Promise((done) => { setTimeout(done, 1000 * Number(answer.headers.get("Retry-After") || 1)); });
    answer = await fetch(url);
  }
  if (!answer.ok) throw new Error(`a drawing could not be fetched (${answer.status})`);
  return answer;
}
