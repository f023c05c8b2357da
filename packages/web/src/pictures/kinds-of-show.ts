/** What is made of a rendered picture to show it in another way; each changes the pixels in place. */

/** Times by which a difference is brightened, so that a step of one can be seen. */
const LOUDER = 4;
/** Code values of the squares under an element. */
const SQUARES = [88, 104] as const;
/** px of their side. */
const SQUARE = 16;

/** How far a picture differs from the plate. */
export function showDifference(made: Uint8ClampedArray, plate: Uint8ClampedArray): void {
  for (let i = 0; i < made.length; i++) if (i % 4 < 3) made[i] = LOUDER * Math.abs(made[i]! - plate[i]!);
}

/** The plate, veiled where the fill does not show within what the matte covers. */
export function showOverlay(matte: Uint8ClampedArray, plate: Uint8ClampedArray): void {
  for (let i = 0; i < matte.length; i += 4) {
    const shows = matte[i]! / 255;
    // The veil is violet: no screen, skin or chroma paint is.
    for (let c = 0; c < 3; c++) matte[i + c] = plate[i + c]! + 0.6 * shows * ([168, 84, 214][c]! - plate[i + c]!);
  }
}

/** The element over squares, so that its alpha is seen. */
export function showElement(element: Uint8ClampedArray, width: number): void {
  for (let i = 0, p = 0; i < element.length; i += 4, p++) {
    const a = element[i + 3]! / 255;
    const ground = SQUARES[(Math.floor((p % width) / SQUARE) + Math.floor(Math.floor(p / width) / SQUARE)) & 1]!;
    for (let c = 0; c < 3; c++) element[i + c] = a * element[i + c]! + (1 - a) * ground;
    element[i + 3] = 255;
  }
}
