/** The smoothest surface over holes of a picture. */
import { fillIn } from './fill-in';

/** Rounds in which a filled hole is evened out. By trial: more change a level of 255 nowhere. */
const ROUNDS = 60;
/** By which a round goes beyond the mean of the four neighbours. Successive over-relaxation, common practice; by trial. */
const OVER = 1.7;
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
  for (let round = 0; round < ROUNDS; round++)
    for (const i of holes) {
      const x = i % width;
      const beside = [x > 0 ? i - 1 : i, x < width - 1 ? i + 1 : i];
      const above = [i >= width ? i - width : i, i < width * (height - 1) ? i + width : i];
      for (let c = 0; c < 3; c++) {
        const own = data[i * 3 + c]!;
        let mean = 0;
        for (const k of beside) mean += data[k * 3 + c]! / 4;
        for (const k of above) mean += data[k * 3 + c]! / 4;
        data[i * 3 + c] = own + OVER * (mean - own);
      }
    }
}
