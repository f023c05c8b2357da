/**
 * Where a Screen that was lost may be again: wherever a remembered picture or a well-known view had it, and wherever in the
 * picture something looks like one of them. A Screen that was tipped to a grazing view and back looks as on the reference
 * frame and not as where it was lost.
 */
import { quadToQuad } from '../../geometry/homography';
import type { Matrix3 } from '../../geometry/matrix3';
import { IDENTITY, multiply } from '../../geometry/matrix3';
import { mapQuad } from '../../geometry/quad';
import type { Quad } from '../../geometry/quad';
import type { Pyramid } from '../../image/pyramid';
import { searchPicture } from '../picture/coarse-search';
import type { KeyPicture } from '../picture/key-pictures';
import { viewDifference } from '../picture/key-pictures';
import type { Sight } from '../memory/sight';

const RELOCATION = {
  /** Views of a stiff screen, beside the remembered pictures, whose places are tried. By trial. */
  mostViews: 3,
  /** Remembered pictures that are looked for over the whole frame. By trial. */
  mostPictures: 3,
  /** Octaves by which places must differ to be worth trying each. By trial. */
  apart: 0.3,
  /** Likeness, -1 to 1, from which a place found over the whole frame is worth aligning to. By trial. */
  alike: 0.5,
} as const;

/** The reference and the remembered pictures that differ most from it and from each other. */
function distinct(sight: Sight, most: number): KeyPicture[] {
  const chosen = [sight.keys[0]!];
  while (chosen.length < Math.min(most, sight.keys.length)) {
    const away = (k: KeyPicture): number =>
      Math.min(...chosen.map((c) => viewDifference(c.homography, k.homography, sight.centre)));
    chosen.push(sight.keys.reduce((best, k) => (away(k) > away(best) ? k : best)));
  }
  return chosen;
}

/**
 * @param views corners of well-known views, in ideal px
 * @returns maps of the reference frame to this one: where remembered pictures had the Screen, then where views had it
 */
export function rememberedPlaces(sight: Sight, views: readonly Quad[]): Matrix3[] {
  const places: Matrix3[] = distinct(sight, sight.keys.length).map((k) => k.homography);
  const isNew = (h: Matrix3): boolean => places.every((p) => viewDifference(p, h, sight.centre) > RELOCATION.apart);
  // The latest views first: a Screen is more likely to be where it lately was.
  for (let i = views.length - 1, added = 0; i >= 0 && added < RELOCATION.mostViews; i--) {
    const h = quadToQuad(sight.pin, views[i]!);
    if (!isNew(h)) continue;
    places.push(h);
    added++;
  }
  return places;
}

/**
 * Looks for remembered pictures over the whole frame, as they were seen then.
 * @param pyramid of the whole frame
 * @returns maps of the reference frame to this one, the most alike first
 */
export function placesInPicture(sight: Sight, pyramid: Pyramid): Matrix3[] {
  return distinct(sight, RELOCATION.mostPictures)
    .flatMap((key) => {
      const found = searchPicture(key.template, pyramid, IDENTITY, mapQuad(key.homography, sight.pin));
      return found && found.score > RELOCATION.alike
        ? [{ score: found.score, place: multiply(found.homography, key.homography) }]
        : [];
    })
    .sort((a, b) => b.score - a.score)
    .map((f) => f.place);
}
