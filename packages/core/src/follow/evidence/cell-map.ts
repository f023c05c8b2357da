/** What a frame was followed by, place by place, to be shown on the picture. */
import { inverse } from '../../geometry/matrix3';
import { mapPoint } from '../../geometry/homography';
import type { EdgeFit } from '../edges/edge-solver';
import type { KeyPicture } from '../picture/key-pictures';
import type { Alignment } from '../picture/texture-alignment';

/** Sites of edges a frame that are told to the page: enough to draw, small enough to store. By trial. */
const MOST_SITES = 240;

const round = (v: number): number => Math.round(v * 10) / 10;

/**
 * Flat list of x, y, side, trust: places on the reference frame's ideal picture in px, the side of a cell in px (0 for
 * a place on an edge), and how far it agrees with the plane, 0 to 100.
 */
export function cellMap(alignment: Alignment | null, key: KeyPicture, edges: EdgeFit | null): number[] {
  const out: number[] = [];
  if (alignment) {
    const { level: t, seen } = alignment.sensors;
    const { template } = key;
    const back = inverse(key.homography);
    const middle = ((t.side - 1) / 2) * t.step;
    const side = t.side * t.step * template.halfSize;
    for (let c = 0; c < t.cells; c++) {
      if (!seen[c] || t.probation[c] || alignment.prior[c] === 0) continue;
      const x = template.centre[0] + template.halfSize * (t.u[c]! + middle);
      const y = template.centre[1] + template.halfSize * (t.v[c]! + middle);
      const [rx, ry] = mapPoint(back, [x, y]);
      const edge = mapPoint(back, [x + side, y]);
      out.push(
        round(rx),
        round(ry),
        round(Math.hypot(edge[0] - rx, edge[1] - ry)),
        Math.round(100 * alignment.consensus.agreement[c]!),
      );
    }
  }
  if (edges) {
    const every = Math.max(1, Math.ceil(edges.hits.length / MOST_SITES));
    const most = Math.max(1e-9, ...edges.terms.weight);
    for (let i = 0; i < edges.hits.length; i += every)
      out.push(
        round(edges.hits[i]!.site[0]),
        round(edges.hits[i]!.site[1]),
        0,
        Math.round(100 * Math.sqrt(edges.terms.weight[i]! / most)),
      );
  }
  return out;
}
