/**
 * `npm run bench:propose -- --count N`: first frames of the demo's shots and of shots thrown by dice, 960x540, and where
 * their true glass is among what is proposed. Seeds from 1 on are for work; those from 1001 on are looked at once, at the
 * end (`--first 1101`). `--demo` adds the demo's own shots.
 */
import { parseArgs } from 'node:util';
import type { Quad } from '@yarlop/core/geometry/quad';
import { distance } from '@yarlop/core/geometry/point';
import { median } from '@yarlop/core/statistics';
import { screensSeen } from '@yarlop/core/propose/screens-seen';
import type { DemoShot } from './shots';
import { SHOTS, cornersAt } from './shots';
import { renderFrame } from './stage';
import { thrown } from './thrown';

const SIZE = { width: 960, height: 540 };
/** Samples a px at the least, as clips of the dice have them. */
const LEAST = 4;
/** px at 1920 wide within which a quad is the right one. */
const RIGHT = 3;
/** Proposals that a person looks at. */
const LOOKED_AT = 3;

/** Mean corner error at 1920 wide; a content that is turned has its corners in another order. */
function errorOf(q: Quad, truth: Quad): number {
  const turned = [0, 1, 2, 3].map((by) => q.reduce((s, p, i) => s + distance(p, truth[(i + by) % 4]!), 0) / 4);
  return (Math.min(...turned) * 1920) / SIZE.width;
}

interface Seen {
  /** of the glass of each Screen: the first proposal that is right, null where none is */
  readonly places: readonly (number | null)[];
  readonly errors: readonly number[];
  readonly ms: number;
}

function look(name: string, shot: DemoShot): Seen {
  const data = renderFrame(shot.set, 0, shot.screens[0]!.place, LEAST);
  const begin = performance.now();
  const proposals = screensSeen({ ...SIZE, channels: 3, data });
  const ms = performance.now() - begin;
  const each = shot.screens.map((screen) => {
    const truth = cornersAt(shot, screen, 0) as unknown as Quad;
    const errors = proposals.map((p) => errorOf(p.corners, truth));
    const place = errors.findIndex((e) => e < RIGHT);
    return { place: place < 0 ? null : place, error: place < 0 ? null : errors[place]!, best: Math.min(...errors) };
  });
  const told = each.map((s) => (s.place === null ? `none (nearest ${s.best.toFixed(1)} px)` : `number ${s.place + 1}`));
  console.log(`${name.padEnd(20)} ${told.join(', ')}  ${Math.round(ms)} ms`);
  return { places: each.map((s) => s.place), errors: each.flatMap((s) => s.error ?? []), ms };
}

function tell(seen: readonly Seen[]): void {
  const places = seen.flatMap((s) => s.places);
  const within = (most: number): string =>
    `${Math.round((100 * places.filter((p) => p !== null && p < most).length) / places.length)} %`;
  const errors = seen.flatMap((s) => s.errors);
  console.log(
    `\n| Screens | right first | among the first ${LOOKED_AT} | their median error | median time |\n| --- | --- | --- | --- | --- |`,
  );
  console.log(
    `| ${places.length} | ${within(1)} | ${within(LOOKED_AT)} | ${median(errors).toFixed(2)} px | ${Math.round(median(seen.map((s) => s.ms)))} ms |`,
  );
}

const { values } = parseArgs({
  options: {
    count: { type: 'string', default: '50' },
    first: { type: 'string', default: '1' },
    demo: { type: 'boolean', default: false },
  },
});
const seen: Seen[] = [];
if (values.demo) for (const [name, make] of Object.entries(SHOTS)) seen.push(look(name, await make({ ...SIZE })));
for (let i = 0; i < Number(values.count); i++) {
  const seed = Number(values.first) + i;
  seen.push(look(`thrown-${seed}`, await thrown(seed, { ...SIZE })));
}
tell(seen);
