/** The smoothest surface over holes of a picture. */
import { fillIn } from './fill-in';

/** Rounds in which a filled hole is evened out. By trial: more change a level of 255 nowhere. */
const ROUNDS = 60;
/** By which a round goes beyond the mean of the four neighbours. Successive over-relaxation, common practice; by trial. */
const OVER = 1.7;

/** Of each place its neighbours to the left, right, above and below; at the picture's border the place itself. */
function neighbours(places: readonly number[], width: number, height: number): Int32Array {
  const out = new Int32Array(4 * places.length);
  for (const [n, i] of places.entries()) {
    const x = i % width;
    out[4 * n] = x > 0 ? i - 1 : i;
    out[4 * n + 1] = x < width - 1 ? i + 1 : i;
    out[4 * n + 2] = i >= width ? i - width : i;
    out[4 * n + 3] = i < width * (height - 1) ? i + width : i;
  }
  return out;
}

/**
 * Closes holes by the smoothest surface that meets what surrounds them: the membrane of Laplace's equation, relaxed from
 * a coarse filling. Added to another picture's values it makes that picture meet the surroundings. Source: P. Perez, M.
 * Gangnet, A. Blake, Poisson Image Editing, 2003.
 * @param data `width*height*3`, changed in place where `known` is 0
 */
export function membrane(data: Float32Array, known: Float32Array, width: number, height: number): void {
  fillIn(data, known, width, height);
  const holes: number[] = [];
  for (let i = 0; i < known.length; i++) if (known[i] === 0) holes.push(i);
  const beside = neighbours(holes, width, height);
  for (let round = 0; round < ROUNDS; round++)
    for (let n = 0; n < holes.length; n++) {
      const i = holes[n]! * 3;
      const left = beside[4 * n]! * 3;
      const right = beside[4 * n + 1]! * 3;
      const above = beside[4 * n + 2]! * 3;
      const below = beside[4 * n + 3]! * 3;
      for (let c = 0; c < 3; c++) {
        const mean = (data[left + c]! + data[right + c]! + data[above + c]! + data[below + c]!) / 4;
        data[i + c] = data[i + c]! + OVER * (mean - data[i + c]!);
      }
    }
}
