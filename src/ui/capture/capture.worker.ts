import { type Asked, doWork } from "./work.ts";

// Runs beside the page, so that it stays quick while a photograph is worked on.
self.onmessage = (event: MessageEvent<Asked>) => {
  const answer = doWork(event.data);
  self.postMessage(answer, { transfer: answer.kind === "make" ? [answer.page.data.buffer] : [] });
};
