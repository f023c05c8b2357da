/** Keeps a program running: when it ends by itself it is started again, after a pause that grows while it keeps ending. */
import { say } from './fail.mjs';

/** The first pause; long enough that a port is let go. */
const FIRST_PAUSE_MS = 500;
/** The pause does not grow beyond this. */
const MOST_PAUSE_MS = 30_000;
/** A program that ran this long has recovered: the next pause is the first one again. */
const RECOVERED_MS = 60_000;

/**
 * @typedef {object} Running
 * @property {Promise<string>} gone settles with how it ended
 * @property {() => Promise<void>} stop ends it in order
 */

/**
 * @param {string} name as a sentence begins with it
 * @param {() => Promise<Running>} start settles once the program stands; rejects when it does not come to stand
 * @returns {Promise<{ stop: () => Promise<void> }>} once it stands for the first time
 * @throws what the first start rejects with: a program that never stood is not started again
 */
export async function keepRunning(name, start) {
  let running = await start();
  let began = Date.now();
  let pause = FIRST_PAUSE_MS;
  let isEnding = false;
  let endPause = () => {};
  const rest = () =>
    new Promise((done) => {
      const timer = setTimeout(done, pause);
      endPause = () => {
        clearTimeout(timer);
        done();
      };
    });
  const startAgain = async (how) => {
    say(`${name} ended (${how}); it is started again in ${pause / 1000} s.`);
    await rest();
    pause = Math.min(MOST_PAUSE_MS, 2 * pause);
    if (isEnding) return;
    try {
      running = await start();
      began = Date.now();
      say(`${name} runs again.`);
    } catch (e) {
      await startAgain(e.message);
    }
  };
  const watch = async () => {
    while (!isEnding) {
      const how = await running.gone;
      if (isEnding) return;
      if (Date.now() - began > RECOVERED_MS) pause = FIRST_PAUSE_MS;
      await startAgain(how);
    }
  };
  const watching = watch();
  return {
    stop: async () => {
      isEnding = true;
      endPause();
      await running.stop();
      await watching;
      // One that came to stand meanwhile.
      await running.stop();
    },
  };
}
