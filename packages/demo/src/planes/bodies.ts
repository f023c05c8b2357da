/** What a device shows beside its front's frame and glass: a mark in its bezel, the side of its body. */
import * as art from './art';

/** A maker's mark of nobody's: three knots of a net, side by side. */
export function markIn(x: number, y: number, r: number, colour: string): string {
  const knots = [-1, 0, 1].map((n) => `<circle cx="${x + 1.6 * n * r}" cy="${y}" r="${r}"/>`);
  return `<g fill="none" stroke="${colour}" stroke-width="${0.5 * r}">${knots.join('')}</g>`;
}

/** A device's outline in its body's colour, lit from above. */
export function silhouette(w: number, h: number, radius: number, body: string): string {
  return art.svg(
    w,
    h,
    `<rect width="${w}" height="${h}" rx="${radius}" fill="${body}"/><rect width="${w}" height="${h}" rx="${radius}" fill="url(#side)"/>`,
    `<linearGradient id="side" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#fff" stop-opacity="0.15"/><stop offset="0.5" stop-color="#000" stop-opacity="0.35"/><stop offset="1" stop-color="#000" stop-opacity="0.6"/></linearGradient>`,
  );
}
