/** What errors and trust over many shots come to, as tables. */
import { quantile } from './measures';

/** One frame that counts. */
export interface Counted {
  readonly seed: number;
  readonly frame: number;
  readonly factors: Readonly<Record<string, string>>;
  /** mean corner error, px at 1920 wide; null where the frame was lost */
  readonly error: number | null;
  readonly trust: number;
  /** errors per axis over their sigma */
  readonly ratios: readonly number[];
}

export interface ShotFrames {
  readonly seed: number;
  readonly frames: readonly Counted[];
  /** frames a second, file to track */
  readonly fps: number;
}

const percent = (share: number, digits = 0): string => `${(100 * share).toFixed(digits)} %`;
const errors = (frames: readonly Counted[]): number[] => frames.flatMap((f) => (f.error === null ? [] : [f.error]));
/** Lost frames count as wrong by any limit. */
const p95 = (frames: readonly Counted[]): number =>
  quantile(
    frames.map((f) => f.error ?? Infinity),
    0.95,
  );

/** Frames that claim to be right and are not: beyond 1 px with trust over 0.9, beyond 3 px with trust over 0.5. */
export function mistakes(frames: readonly Counted[]): { readonly slight: number; readonly grave: number } {
  const measured = frames.filter((f) => f.error !== null);
  const share = (n: number): number => n / Math.max(1, measured.length);
  return {
    slight: share(measured.filter((f) => f.error! > 1 && f.trust > 0.9).length),
    grave: share(measured.filter((f) => f.error! > 3 && f.trust > 0.5).length),
  };
}

export function summary(shots: readonly ShotFrames[]): string {
  const all = shots.flatMap((s) => s.frames);
  const under = (limit: number): string => percent(shots.filter((s) => p95(s.frames) < limit).length / shots.length);
  const { slight, grave } = mistakes(all);
  const lost = all.filter((f) => f.error === null).length;
  const worst = [...shots].sort((a, b) => p95(b.frames) - p95(a.frames)).slice(0, 12);
  return [
    `${shots.length} shots, ${all.length} frames.`,
    '',
    '| 95th pc. under 0.5 / 1 / 3 px | median | within 1 px | lost | over 1 px, trust > 0.9 | over 3 px, trust > 0.5 | median frames/s |',
    '| --- | --- | --- | --- | --- | --- | --- |',
    `| ${under(0.5)} / ${under(1)} / ${under(3)} | ${quantile(errors(all), 0.5).toFixed(2)} | ${percent(all.filter((f) => f.error !== null && f.error <= 1).length / all.length)} | ${percent(lost / all.length, 1)} | ${percent(slight, 2)} | ${percent(grave, 2)} | ${quantile(
      shots.map((s) => s.fps),
      0.5,
    ).toFixed(1)} |`,
    '',
    `Worst: ${worst.map((s) => `${s.seed} (${Number.isFinite(p95(s.frames)) ? p95(s.frames).toFixed(1) : 'lost'})`).join(', ')}.`,
  ].join('\n');
}

/** Shares of the per-axis errors within one and two sigma; a normal distribution has 68 and 95 %. */
export function calibrationOf(frames: readonly Counted[]): string {
  const ratios = frames.flatMap((f) => f.ratios);
  const share = (k: number): string => percent(ratios.filter((r) => r <= k).length / Math.max(1, ratios.length));
  return `Per axis within 1 / 2 sigma: ${share(1)} / ${share(2)}.`;
}

/** How far off the frames are that one keeps when one keeps those of so much trust. */
export function riskCurve(frames: readonly Counted[]): string {
  const rows = [0.99, 0.95, 0.9, 0.8, 0.5, 0.2, 0].map((least) => {
    const kept = errors(frames.filter((f) => f.trust >= least));
    const beyond = (limit: number): string =>
      percent(kept.filter((e) => e > limit).length / Math.max(1, kept.length), 1);
    return `| ${least} | ${percent(kept.length / frames.length)} | ${quantile(kept, 0.5).toFixed(2)} | ${quantile(kept, 0.95).toFixed(2)} | ${beyond(1)} | ${beyond(3)} |`;
  });
  return [
    '| trust at least | frames kept | median | 95th pc. | over 1 px | over 3 px |',
    '| --- | --- | --- | --- | --- | --- |',
    ...rows,
  ].join('\n');
}

export function byFactor(frames: readonly Counted[]): string {
  const groups = new Map<string, Counted[]>();
  for (const f of frames)
    for (const [name, value] of Object.entries(f.factors)) {
      const key = `${name}: ${value}`;
      groups.set(key, [...(groups.get(key) ?? []), f]);
    }
  const rows = [...groups]
    .sort(([a], [b]) => a.localeCompare(b, 'en'))
    .map(([key, own]) => {
      const { slight, grave } = mistakes(own);
      const within = own.filter((f) => f.error !== null && f.error <= 1).length / own.length;
      const lost = own.filter((f) => f.error === null).length / own.length;
      return `| ${key} | ${new Set(own.map((f) => f.seed)).size} | ${quantile(errors(own), 0.5).toFixed(2)} | ${quantile(errors(own), 0.95).toFixed(2)} | ${percent(within)} | ${percent(lost, 1)} | ${percent(slight, 1)} / ${percent(grave, 1)} |`;
    });
  return [
    '| thrown | shots | median | 95th pc. | within 1 px | lost | confident mistakes |',
    '| --- | --- | --- | --- | --- | --- | --- |',
    ...rows,
  ].join('\n');
}
