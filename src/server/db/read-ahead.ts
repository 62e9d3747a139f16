import { setImmediate as nextTurn } from "node:timers/promises";

/**
 * Asks for one portion after the other, each while the one before is worked on: the database and this process are busy side by side. Never more than
 * two portions are held. Throws what asking throws, where that portion would have come.
 * @param next Answers the question for the portion after one with this answer, or null when that was the last.
 */
export async function* readAhead<T>(first: () => Promise<T>, next: (answer: T) => (() => Promise<T>) | null): AsyncGenerator<T> {
  let coming: Promise<T> | null = heard(first());
  while (coming) {
    const answer: T = await coming;
    const ask = next(answer);
    coming = ask ? heard(ask()) : null;
    // Until the question is on its way: whoever works on this portion lets nothing else happen meanwhile.
    if (coming) await nextTurn();
    yield answer;
  }
}

/** Whoever leaves before an answer is looked at must not leave its error unheard. */
function heard<T>(answer: Promise<T>): Promise<T> {
  answer.catch(() => {});
  return answer;
}
