/**
 * Looks for what passes before a Screen: cells in which the plane does not show what it usually does, of pieces that
 * reach over the glass's edge. What is mirrored in the glass ends there; what stands before it does not.
 */
import { mapPoint, unitSquareToQuad } from '../../geometry/homography';
import type { Lens } from '../../geometry/lens';
import { inverse } from '../../geometry/matrix3';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import type { Raster } from '../../image/image';
import { median, spread } from '../../statistics';
import { extendBy } from '../base/extend';
import { CellField, either } from './cell-field';
import { maskText } from './cell-mask';
import type { CellGrid } from './front-cells';
import { cellsSeen, gridOf } from './front-cells';
import type { Differing } from './front-differs';
import { Expected, showsGlass } from './front-differs';
import { acrossBezel, grownByColour } from './front-growth';
import type { SeenCells } from './front-light';
import { Mirrored } from './front-mirrored';
import type { FrontModel } from './front-model';
import { frontModel, isKnown } from './front-model';
import { sectionsOf } from './front-sections';

/** What stands before a Screen, frame by frame. */
export interface FoundFronts extends CellGrid {
  /** first frame of `masks` */
  readonly from: number;
  /** cells that are covered, as text (`cell-mask.ts`); '' on frames without any */
  readonly masks: readonly string[];
  /** cells over which it goes over into what lies behind, from where it begins */
  readonly edge: number;
  /** what lies behind is even, so that its light goes on as it is beside */
  readonly isEven: boolean;
}

const SEARCH = {
  /** Of the glass that must be known. By trial. */
  known: 0.6,
  /** Cells that a piece must have, and those that surely differ within the glass and beyond it. By trial. */
  least: 8,
  within: 3,
  ring: 2,
  /** px beyond the edge that may still show the glass: its softness, and an error of the pin. By trial. */
  margin: 1.5,
  /** Share of what differs within the glass that its soft edge may show beyond it. By trial. */
  leak: 0.5,
  /** Cells that tell nothing over which a piece goes on. By trial. */
  bridge: 2,
  /** Of a piece that must lie where something is on the frame before or after. By trial. */
  held: 0.5,
  /** Of a frame's movement by which its picture is smeared to each side: a shutter of 180 degrees. */
  shutter: 0.25,
  /** px that a cell's value comes from. By trial. */
  footprint: 1.5,
  /** Cells; what is smeared by more shows nothing. By trial. */
  smear: 12,
  /** Cells over which a front's edge may be soft. By trial. */
  widest: 8,
  /** Frames by which the edge is told. By trial. */
  edgeFrames: 12,
  /** Of a front's difference that is taken for all of it. By trial. */
  reached: 0.85,
  /** Cells of a hole in what is covered that is filled. By trial. */
  hole: 40,
  /** Of the glass that must be covered on some frames for anything to be told, and how many. By trial. */
  worth: 0.004,
  frames: 4,
} as const;

/** What stands before the plane on a frame. */
interface Front {
  readonly frame: number;
  readonly mask: Uint8Array;
  /** by how many levels of 255 cells differ */
  readonly far: Float32Array;
  readonly isEven: boolean;
}

/** A piece of what differs on a frame, and whether it reaches over the glass's edge. */
interface Piece {
  readonly cells: readonly number[];
  readonly isReaching: boolean;
}

/** Pieces of a frame that are large enough to be told. */
function piecesOf({ likely, far, isTold, margin }: Differing, field: CellField): Piece[] {
  // A thin bezel tells only next to the glass, where a soft edge shows a part of what the glass does.
  const isThin = (k: number): boolean => {
    const step = field.outwards(k);
    return step !== null && !isTold[k + margin * step] && far[k]! > SEARCH.leak * far[k - step]!;
  };
  const crosses = (k: number): boolean =>
    likely[k] === 2 && field.beyond[k]! >= 0 && (field.beyond[k]! >= margin || isThin(k));
  // A soft edge of the glass tells nothing, and joins what lies on both sides of it.
  const on = field.spreadOver(
    likely.map((v) => (v > 0 ? 1 : 0)),
    isTold,
    SEARCH.bridge,
  );
  const large = field.pieces(on).filter((cells) => cells.length >= SEARCH.least);
  return large.map((cells) => {
    const within = cells.filter((k) => field.inside[k] && likely[k] === 2).length;
    return { cells, isReaching: within >= SEARCH.within && cells.filter(crosses).length >= SEARCH.ring };
  });
}

/** Cells of the pieces that reach over the glass's edge, or lie where something already is. */
function maskOfPieces(pieces: readonly Piece[], already: Uint8Array | null, count: number): Uint8Array {
  const out = new Uint8Array(count);
  for (const { cells, isReaching } of pieces) {
    const isHeld = already !== null && cells.filter((k) => already[k]).length > SEARCH.held * cells.length;
    if (isReaching || isHeld) for (const k of cells) out[k] = 1;
  }
  return out;
}

/** What has come in over an edge is followed both ways, and what is mirrored beside it left out. */
function followed(differing: readonly Differing[], field: CellField): Uint8Array[] {
  const pieces = differing.map((d) => piecesOf(d, field));
  const masks = pieces.map((p) => maskOfPieces(p, null, field.count));
  const mirrored = new Mirrored(
    masks.map((mask, i) => ({ ...differing[i]!, mask })),
    field,
  );
  const of = (i: number, beside: Uint8Array | null): Uint8Array => {
    const mask = maskOfPieces(pieces[i]!, beside && field.grown(beside), field.count);
    return mirrored.outOf(mask, differing[i]!.levels);
  };
  for (let i = 0; i < masks.length; i++) masks[i] = of(i, masks[i - 1] ?? null);
  for (let i = masks.length - 2; i >= 0; i--) masks[i] = either(masks[i]!, of(i, masks[i + 1]!));
  return masks;
}

/** What stands before the plane on each frame of a section. */
function frontsOf(section: readonly SeenCells[], model: FrontModel, field: CellField): Front[] {
  const expected = new Expected(model, field);
  const differing = section.map((s) => expected.differences(s));
  const masks = followed(differing, field);
  const isTold = (k: number): boolean => [0, 1, 2].every((c) => isKnown(model, 3 * k + c));
  return section.map(({ frame }, i) => {
    const { likely, far, levels, isTold: isDecided } = differing[i]!;
    const mask = masks[i]!;
    // Where nothing is told it goes on by its colour; what differs from usual was judged before.
    const covered = Array.from(mask.keys()).filter((k) => mask[k] && field.inside[k]);
    const over = grownByColour(mask, covered, { levels, isBehind: (k) => isDecided[k] === 1 }, field);
    const isBehind = (k: number): boolean => likely[k]! > 0 || showsGlass(model, levels, k);
    const grown = grownByColour(over, acrossBezel(likely, isTold, field), { levels, isBehind }, field);
    return { frame, mask: field.spreadOver(grown, isDecided, SEARCH.smear), far, isEven: model.isEven };
  });
}

/** Share of the glass of which it is known what it usually shows. */
function knownShare(model: FrontModel, field: CellField): number {
  const mask = field.inside.map((v, k) => (v && [0, 1, 2].some((c) => isKnown(model, 3 * k + c)) ? 1 : 0));
  return field.share(mask);
}

interface Seen {
  readonly frame: number;
  readonly cells: Uint16Array;
  readonly corners: Quad;
}

/** Gathers the cells of a Screen's frames, and says in the end what stands before it. */
export class FrontSearch {
  private readonly seen: Seen[] = [];
  private readonly field: CellField;

  /** @param aspect width of the slot by its height */
  constructor(aspect: number) {
    this.field = new CellField(gridOf(aspect));
  }

  /** Frames come in order. @param corners of the slot as the picture shows them, px */
  see(frame: number, picture: Raster, corners: Quad, lens: Lens | null): void {
    this.seen.push({ frame, cells: cellsSeen(picture, corners, lens, this.field.grid), corners });
  }

  /** @returns null where nothing stands before it, or it can't be told */
  found(): FoundFronts | null {
    const { field } = this;
    const all = this.seen.map(({ frame, cells }, i): SeenCells => ({ frame, cells, ...this.reachOn(i) }));
    const fronts = new Map<number, Front>();
    if (all.length === 0) return null;
    for (const section of sectionsOf(all, field)) {
      const model = frontModel(section, field);
      if (!model || knownShare(model, field) < SEARCH.known) continue;
      for (const f of frontsOf(section, model, field)) fronts.set(f.frame, f);
    }
    return told(settled(fronts, field), field);
  }

  /** How far the plane's picture is smeared on the i-th frame, and its edge reaches. */
  private reachOn(i: number): Pick<SeenCells, 'smear' | 'margin'> {
    const { frame, corners } = this.seen[i]!;
    const toSlot = inverse(unitSquareToQuad(corners));
    const { columns, rows } = this.field.grid;
    let most = 0;
    for (const beside of [this.seen[i - 1], this.seen[i + 1]]) {
      if (!beside || Math.abs(beside.frame - frame) !== 1) continue;
      for (const [k, p] of beside.corners.entries()) {
        const [s, t] = mapPoint(toSlot, p);
        most = Math.max(most, columns * Math.abs(s - CORNERS[k]![0]), rows * Math.abs(t - CORNERS[k]![1]));
      }
    }
    // A px that holds several cells shows them all.
    const narrowest = Math.min(...corners.map((p, k) => distance(p, corners[(k + 1) % 4]!) / (k % 2 ? rows : columns)));
    const within = Math.max(0, SEARCH.footprint / narrowest - 0.5);
    return {
      smear: Math.min(SEARCH.smear, Math.round(SEARCH.shutter * most + within)),
      margin: Math.min(this.field.grid.ring - 1, Math.ceil(SEARCH.margin / narrowest)),
    };
  }
}

/** The corners' places in the slot. */
const CORNERS = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
] as const;

/** Frames beside each other agree: what is covered on one alone is left out, and what is covered on both sides of it goes on. */
function settled(fronts: ReadonlyMap<number, Front>, field: CellField): Front[] {
  const none = new Uint8Array(field.count);
  return [...fronts.values()].map((front): Front => {
    const at = (i: number): Uint8Array => fronts.get(front.frame + i)?.mask ?? none;
    const beside = either(field.grown(at(-1)), field.grown(at(1)));
    const [before, after] = [either(at(-1), at(-2)), either(at(1), at(2))];
    const mask = front.mask.map((v, k) => ((v && beside[k]) || (before[k] && after[k]) ? 1 : 0));
    return { ...front, mask: field.opened(field.closed(mask, SEARCH.hole)) };
  });
}

/** @returns null where too little is covered to be worth anything */
function told(fronts: readonly Front[], field: CellField): FoundFronts | null {
  const covered = fronts.filter(({ mask }) => field.share(mask) > SEARCH.worth);
  if (covered.length < SEARCH.frames) return null;
  const some = fronts.filter(({ mask }) => mask.includes(1));
  const from = some[0]!.frame;
  const masks: string[] = Array.from({ length: some.at(-1)!.frame - from + 1 }, () => '');
  for (const { frame, mask } of some) masks[frame - from] = maskText(mask);
  return { ...field.grid, from, masks, edge: edgeOf(covered, field), isEven: covered.every((f) => f.isEven) };
}

/** Cells over which what stands in front goes over into what lies behind: until most of its difference is reached. */
function edgeOf(fronts: readonly Front[], field: CellField): number {
  const shares: number[][] = Array.from({ length: SEARCH.widest }, () => []);
  for (const { mask, far } of spread(fronts, SEARCH.edgeFrames)) {
    const depth = field.depth(mask, SEARCH.widest);
    const most = far.map((v, k) => (mask[k] ? v : 0));
    extendBy(most, field.width, field.height, SEARCH.widest, true);
    for (let k = 0; k < mask.length; k++) if (mask[k]) shares[depth[k]! - 1]!.push(far[k]! / most[k]!);
  }
  const usual = shares.map((s) => (s.length > SEARCH.least ? median(s) : 0));
  const most = Math.max(...usual);
  return usual.findIndex((v) => v >= SEARCH.reached * most) + 1;
}
