/** Corners from ST maps: the plane that takes each covered pixel to the content's place that it holds. */
import { pairsOfMap } from '@yarlop/core/formats/st-map';
import { homographyFromPairs, normaliseHomography, quadToQuad } from '@yarlop/core/geometry/homography';
import type { Quad } from '@yarlop/core/geometry/quad';
import { assertPin, mapQuad, perspectiveCentre } from '@yarlop/core/geometry/quad';
import { maxOf } from '@yarlop/core/image/image';
import type { Track, TrackFrame } from '@yarlop/core/track';
import { decodeRgb } from '@yarlop/media/decode';
import { assertOneSize } from '@yarlop/media/one-size';
import { probe } from '@yarlop/media/probe';
import { openSource } from '@yarlop/media/source';
import { InputError } from './pipeline-error';

/** px that must be covered for four corners to be told. By trial. */
const LEAST_COVERED = 50;
const UNIT: Quad = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];

/**
 * @param path a pattern, a folder, or one picture; maps of the whole plate. @throws InputError for maps that cover
 * nothing
 */
export async function readStMaps(path: string): Promise<Track> {
  const source = await openSource(path);
  try {
    const p = await probe(source);
    await assertOneSize(source);
    const found: { frame: number; corners: Quad }[] = [];
    if (!p.hasAlpha)
      throw new InputError(`${p.name} has no alpha: where the Screen is cannot be told from its coordinates alone.`);
    let frame = 0;
    for await (const { width, height, data, ...r } of decodeRgb(source, p, { alpha: true })) {
      const unit = 1 / maxOf({ width, height, data, ...r });
      const map = new Float32Array(data);
      for (let i = 0; i < map.length; i++) map[i]! *= unit;
      const { content, plate } = pairsOfMap(map, { x: 0, y: 0, width, height });
      if (content.length >= LEAST_COVERED)
        found.push({ frame, corners: mapQuad(homographyFromPairs(content, plate), UNIT) });
      frame++;
    }
    const first = found[0];
    if (!first) throw new InputError(`${p.name} covers nothing on any frame: its alpha is empty.`);
    const centre = perspectiveCentre(first.corners);
    const frames = found.map(({ frame: n, corners }, i): TrackFrame => {
      if (n !== first.frame + i)
        throw new InputError(
          `${p.name}: frame ${first.frame + i} covers nothing; bring in the ranges before and after it apart.`,
        );
      assertPin(corners);
      return {
        frame: n,
        corners,
        homography: normaliseHomography(quadToQuad(first.corners, corners), centre),
        sigma: [0.5, 0.5, 0.5, 0.5],
        trust: 0.5,
        evidence: { hand: 1 },
      };
    });
    return {
      plate: {
        name: p.name,
        width: p.width,
        height: p.height,
        frameRate: p.frameRate,
        firstFrame: p.firstFrame,
        frameCount: p.frameCount,
      },
      screens: [{ name: 'screen', referenceFrame: first.frame, stopped: null, frames }],
    };
  } finally {
    await source.dispose();
  }
}
