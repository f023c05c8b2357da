import { clamp } from '@yarlop/core/clamp';
import type { FillColour } from '@yarlop/core/dress/fill/fill-pyramid';
import { readingOf } from '@yarlop/core/dress/fill/fill-pyramid';
import type { FillTime } from '@yarlop/core/dress/fill/fill-time';
import { fillPicture } from '@yarlop/core/dress/fill/fill-time';
import type { Levels } from '@yarlop/core/dress/colour/levels';
import { gammaAt } from '@yarlop/core/dress/colour/levels';
import type { MadeFill } from '@yarlop/core/dress/content/made-fill';
import { madeFrame, madeSize } from '@yarlop/core/dress/content/made-fill';
import type { PlaneOn } from '@yarlop/core/dress/render';
import type { Transfer } from '@yarlop/core/dress/colour/transfer';
import { transferOf } from '@yarlop/core/dress/colour/transfer';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { changesPlate, planesRiddenOn, stillFrames } from '@yarlop/core/dress/layer/recipe';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { CARD_KINDS } from '@yarlop/core/proof/proof-card';
import type { Stage } from '../stages';
import type { OtherVersion } from '../stores/comparison';
import { useMedia } from '../stores/media';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { Probe, Screen, Shot } from '../types';
import type { FillRequest, LayerRequest, PictureFill, PictureRequest } from '../shared/picture-request';

/** px of a proof card's longer side: as sharp as a Screen is seen at 100 %. */
const CARD_SIDE = 720;

/** A card about as long and as wide as the pin looks. */
function cardSize(q: Quad): [number, number] {
  const across = distance(q[0], q[1]) + distance(q[3], q[2]);
  const down = distance(q[1], q[2]) + distance(q[0], q[3]);
  const k = CARD_SIDE / Math.max(across, down);
  const even = (v: number): number => Math.max(64, 16 * Math.round((v * k) / 16));
  return [even(across), even(down)];
}

/**
 * A list of one value a frame with that frame's alone: the rest need not cross to a worker, nor tell one request from
 * another.
 */
function alone<T extends { readonly measured?: { readonly from: number; readonly values: readonly number[] } }>(
  part: T | undefined,
  frame: number,
): T | undefined {
  const m = part?.measured;
  if (!m) return part;
  return {
    ...part,
    measured: { from: frame, values: [m.values[clamp(frame - m.from, 0, m.values.length - 1)]!] },
  };
}
function dressOn(d: DressRecipe, frame: number): DressRecipe {
  const levels = alone(d.levels, frame);
  const softness = alone(d.softness, frame);
  return { ...d, ...(levels ? { levels } : {}), ...(softness ? { softness } : {}) };
}

/** A picture's colour as it arrives here: floats come through the sRGB curve. */
const isFloatProbe = (p: Probe): boolean => p.bitDepth === 32;
export function seenTransfer(p: Probe): Transfer {
  return isFloatProbe(p) ? 'srgb' : transferOf(p.colour.transfer);
}

/** A frame of a plate in its full pixels, and what is laid over it. */
export function fullPicture(
  { mediaHash, probe }: Shot,
  frame: number,
  layers: readonly LayerRequest[],
): Pick<PictureRequest, 'url' | 'plateWidth' | 'transfer' | 'layers'> {
  return {
    url: `/api/media/${mediaHash}/frames/${frame}.png`,
    plateWidth: probe.width,
    transfer: seenTransfer(probe),
    layers,
  };
}

function planeOn(s: Screen, frame: number): PlaneOn | null {
  const tracks = useTracks();
  const corners = tracks.corners(s, frame);
  return (
    corners && {
      corners,
      before: tracks.corners(s, frame - 1),
      after: tracks.corners(s, frame + 1),
      pin: s.recipe.pin as Quad,
      referenceFrame: s.recipe.referenceFrame,
    }
  );
}

/** Planes of other Screens that outlines ride on, by name. */
function planesOn(names: ReadonlySet<string>, frame: number): Record<string, PlaneOn> {
  const there = useShot().screens.filter((s) => names.has(s.recipe.name));
  return Object.fromEntries(
    there.flatMap((s) => {
      const on = planeOn(s, frame);
      return on ? [[s.recipe.name, on]] : [];
    }),
  );
}

/** How a file's picture is taken for a frame. */
interface PictureUse {
  readonly frame: number;
  /** playback's small pictures instead of lossless ones */
  readonly quick: boolean;
  readonly time: FillTime;
  /** what the person set of its colour, before its tags */
  readonly colour: FillColour & { readonly table?: string | undefined };
  readonly levels?: Levels;
}

/** The plate's colour, as it arrives here. */
function colourSeen(plate: Probe): Probe['colour'] {
  return { ...plate.colour, transfer: isFloatProbe(plate) ? 'iec61966-2-1' : plate.colour.transfer };
}

/** A file of the library on a frame; null where there is none, or it is not read in yet. */
function pictureOf(hash: string | undefined, use: PictureUse): PictureFill | null {
  const { frame, quick, time, colour, levels } = use;
  const plate = useShot().shot!.probe;
  const m = hash === undefined ? undefined : useMedia().byHash.get(hash);
  if (!m || m.state !== 'ready') return null;
  const at = fillPicture(time, frame, m.frameCount, m.probe.frameRate, plate.frameRate);
  const reading = readingOf(levels, frame, m.probe.colour, colour, colourSeen(plate));
  return {
    url: quick && m.frameCount > 1 ? `/api/media/${m.hash}/proxy/${at}.jpg` : `/api/media/${m.hash}/frames/${at}.png`,
    reading: isFloatProbe(m.probe) ? { ...reading, curve: 'srgb' } : reading,
    ...(colour.table ? { table: colour.table } : {}),
  };
}

/**
 * What a Screen's slot shows on a frame; null where it is empty or not read in yet. @param quick playback's small
 * pictures instead of lossless ones
 */
function fillOn(s: Screen, frame: number, quick: boolean): FillRequest | null {
  const fill = s.recipe.fill;
  const dress = (s.recipe.dress ?? {}) as DressRecipe;
  if (!fill) return null;
  const at = { frame, quick, colour: fill };
  const picture = (hash: string | undefined, time: FillTime, own: boolean): PictureFill | null =>
    pictureOf(hash, { ...at, time, ...(own && dress.levels ? { levels: dress.levels } : {}) });
  const made = fill.made as MadeFill | undefined;
  if (!made) return picture(fill.media, fill, true);
  const on = madeFrame(fill, frame);
  return {
    made,
    frame: on,
    size: madeSize(s.recipe.pin as Quad, made),
    layers: (made.layers ?? []).map((l) =>
      l.kind === 'picture' ? pictureOf(l.media, { ...at, frame: on, time: { start: l.start ?? 0 } }) : null,
    ),
    background: picture(fill.media, fill, false),
    foreground: picture(made.foreground?.media, { start: made.foreground?.start ?? 0 }, false),
    curve: transferOf(colourSeen(useShot().shot!.probe).transfer),
    gamma: gammaAt(dress.levels ?? {}, frame),
  };
}

/** What is pinned into a Screen to judge its track by: a card, its fill undressed, or a picture of one's own. */
function proofOn(s: Screen, frame: number, quick: boolean): Pick<LayerRequest, 'fill' | 'dress'> {
  const { card, ownCard, cardOpacity: opacity } = useView();
  const drawn = { card: cardSize(s.recipe.pin), opacity };
  if (card !== 'fill' && card !== 'own') return { fill: { ...drawn, kind: card } };
  const { placement } = (s.recipe.dress ?? {}) as DressRecipe;
  const undressed = { ...s, recipe: { ...s.recipe, dress: {} } };
  const isOwn = card === 'own';
  const picture = isOwn ? pictureOf(ownCard, { frame, quick, time: {}, colour: {} }) : fillOn(undressed, frame, quick);
  if (!picture) return { fill: { ...drawn, kind: CARD_KINDS[0] } };
  return { fill: picture, dress: { levels: { opacity }, ...(placement && !isOwn ? { placement } : {}) } };
}

/** What a slot shows; nothing, where it is empty and the plate is changed all the same; null where nothing is done at all. */
function fillOrNothing(s: Screen, frame: number, quick: boolean): FillRequest | null {
  return fillOn(s, frame, quick) ?? (changesPlate((s.recipe.dress ?? {}) as DressRecipe) ? { nothing: true } : null);
}

/**
 * What is laid over the plate in a stage: a proof card in Prove, the fills from Dress on. @param quick playback's small
 * pictures of clips instead of lossless ones; other: a Screen as it was or would be, in the place of what it is
 */
export function layersFor(
  stage: Stage,
  frame: number,
  quick = false,
  other: OtherVersion | null = null,
): LayerRequest[] {
  if (stage !== 'prove' && stage !== 'dress' && stage !== 'hand-over') return [];
  const store = useShot();
  const tracks = useTracks();
  const all = store.screens.map((s) => (s.id === other?.screenId ? { ...s, recipe: other.recipe } : s));
  const shown = stage === 'prove' ? all.filter((s) => s.id === store.chosenId) : all;
  return shown.flatMap((s): LayerRequest[] => {
    const on = planeOn(s, frame);
    const lens = tracks.tracks.get(s.id)?.lens ?? 0;
    if (!on) return [];
    // What is laid flat, or drawn as curves, stands before the picture.
    if (stage === 'prove' && useView().look !== 'card') return [];
    if (stage === 'prove') return [{ corners: on.corners, frame, lens, ...proofOn(s, frame, quick) }];
    const dress = (s.recipe.dress ?? {}) as DressRecipe;
    const fill = fillOrNothing(s, frame, quick);
    const plate = store.shot!.probe;
    if (!fill) return [];
    const names = planesRiddenOn(dress);
    const stills = stillFrames(dress).map((n) => ({ frame: n, own: planeOn(s, n), others: planesOn(names, n) }));
    return [
      {
        ...on,
        ...(names.size > 0 ? { others: planesOn(names, frame) } : {}),
        ...(stills.length > 0 ? { stills } : {}),
        frame,
        frameRate: plate.frameRate[0] / plate.frameRate[1],
        shutter: tracks.tracks.get(s.id)?.shutter?.share ?? null,
        lens,
        dress: dressOn(dress, frame),
        fill,
      },
    ];
  });
}
