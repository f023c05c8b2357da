/** Promises of time, held on machines that do other things as well: by how much this one is slowed is measured beside. */

/** Turns of the yardstick's loop: about 2 ms of work. */
const TURNS = 400_000;
/** Times that it is run: more than a tenth of a second, so that others had their turns too. */
const TIMES = 60;

/** Ms that a fixed piece of work takes. */
function yardstick(): number {
  const began = performance.now();
  let x = 1;
  for (let i = 0; i < TURNS; i++) x = (x * 1.0001 + i) % 1000;
  if (Number.isNaN(x)) throw new Error('The yardstick is broken.');
  return performance.now() - began;
}

/**
 * How many times slower than alone this process is at the moment, at least 1: a piece of work so short that it mostly is not
 * interrupted, on average against the quickest.
 */
function slowness(): number {
  const took = Array.from({ length: TIMES }, yardstick);
  return took.reduce((s, ms) => s + ms, 0) / TIMES / Math.min(...took);
}

/**
 * What was promised, on the machine as it is at the moment.
 * @param promised ms on a machine that does nothing else
 */
export function allowedMs(promised: number): number {
  return promised * slowness();
}
