/**
 * The report of a shot: one page that needs nothing else, on screen and on paper. What was followed, how sure, where it
 * is weakest, and how the corners move, as drawn lines.
 */
import { distance } from '../geometry/point';
import type { ScreenTrack, Track, TrackFrame } from '../track';
import { median, quantile } from '../statistics';
import { escaped } from './text';

/** What a proof found on a frame, px, where one was made. */
export interface ReportProof {
  readonly screen: string;
  readonly verdict: string;
  readonly worst: readonly { readonly frame: number; readonly drift: number; readonly why: string }[];
}

export interface ReportParts {
  readonly settings?: readonly (readonly [string, string])[];
  readonly proofs?: readonly ReportProof[];
  /** pictures as data addresses */
  readonly thumbnails?: readonly { readonly frame: number; readonly url: string }[];
}

/** px of a chart's width. */
const W = 720;
/** px of its height. */
const H = 110;

interface Series {
  readonly name: string;
  readonly values: readonly number[];
  readonly dash: string;
}

/** What all charts of a Screen share. */
interface Axis {
  readonly frames: readonly number[];
  /** label of the plate's first frame */
  readonly first: number;
  /** frames of the plate */
  readonly count: number;
}

/** Lines over the frames; gaps where there is no value. */
function chart({ frames, first, count }: Axis, title: string, unit: string, series: readonly Series[]): string {
  const all = series.flatMap((s) => s.values).filter(Number.isFinite);
  const low = Math.min(0, ...all.slice(0, 1), quantile(all, 0));
  const high = Math.max(1e-9, quantile(all, 1));
  const x = (f: number): string => ((W * (f + 0.5)) / Math.max(1, count)).toFixed(1);
  const y = (v: number): string => (H - 4 - ((H - 8) * (v - low)) / Math.max(1e-9, high - low)).toFixed(1);
  const point = (values: readonly number[], i: number): string => {
    if (!Number.isFinite(values[i]!)) return '';
    return `${i > 0 && Number.isFinite(values[i - 1]!) ? 'L' : 'M'}${x(frames[i]!)} ${y(values[i]!)}`;
  };
  const path = ({ name, values, dash }: Series): string =>
    `<path d="${values.map((_, i) => point(values, i)).join('')}" class="line" stroke-dasharray="${dash}"><title>${escaped(name)}</title></path>`;
  const names = series.length > 1 ? `; ${series.map((s) => s.name).join(', ')}` : '';
  const range = escaped(`${low.toPrecision(3)} to ${high.toPrecision(3)} ${unit}${names}`);
  const caption = `<figcaption>${escaped(title)} <span>${range}</span></figcaption>`;
  const drawing = `<svg viewBox="0 0 ${W} ${H}" role="img" aria-label="${escaped(title)}"><rect width="${W}" height="${H}" class="ground"/>${series.map(path).join('')}</svg>`;
  return `<figure>${caption}${drawing}<div class="axis"><span>${first}</span><span>${first + count - 1}</span></div></figure>`;
}

const DASHES = ['', '6 3', '2 3', '8 3 2 3'];
const CORNERS = ['TL', 'TR', 'BR', 'BL'];

const worstSigma = (f: TrackFrame): number => Math.max(...f.sigma);

/** What is known of a Screen as a whole. */
function factsOf({ plate }: Track, s: ScreenTrack, proof: ReportProof | undefined): [string, string][] {
  const label = (f: number): number => f + plate.firstFrame;
  const isEmpty = s.frames.length === 0;
  const trust = s.frames.map((f) => f.trust);
  const sigma = s.frames.map(worstSigma);
  const frames = isEmpty
    ? 'none'
    : `${label(s.frames[0]!.frame)} to ${label(s.frames.at(-1)!.frame)} (${s.frames.length} of ${plate.frameCount})`;
  const bridged = s.frames.filter((f) => Object.keys(f.evidence).length === 0).length;
  return [
    ['Frames', frames],
    ['Reference frame', String(label(s.referenceFrame))],
    ['Trust, median and lowest', isEmpty ? '-' : `${median(trust).toFixed(2)}, ${Math.min(...trust).toFixed(2)}`],
    [
      'Sigma of the worst corner, median and 95th',
      isEmpty ? '-' : `${median(sigma).toFixed(2)} px, ${quantile(sigma, 0.95).toFixed(2)} px`,
    ],
    ['Bridged without evidence', String(bridged)],
    ...(s.stopped ?? []).map((t): [string, string] => [
      `Stopped ${t.direction}`,
      `frame ${label(t.frame)}: ${t.reason}`,
    ]),
    ...(proof ? [['Verdict', proof.verdict] as [string, string]] : []),
  ];
}

/** Trust, sigma, speed and corners over the frames. */
function chartsOf({ plate }: Track, s: ScreenTrack): string {
  const axis = { frames: s.frames.map((f) => f.frame), first: plate.firstFrame, count: plate.frameCount };
  const alone = (title: string, unit: string, name: string, values: readonly number[]): string =>
    chart(axis, title, unit, [{ name, values, dash: '' }]);
  const speed = s.frames.map((f, i) =>
    i === 0 ? NaN : Math.max(...f.corners.map((c, k) => distance(c, s.frames[i - 1]!.corners[k]!))),
  );
  const along = (axisName: string, k: 0 | 1): string => {
    const series = CORNERS.map((name, c) => ({
      name,
      dash: DASHES[c]!,
      values: s.frames.map((f) => f.corners[c]![k]),
    }));
    return chart(axis, `Corners, ${axisName}`, 'px', series);
  };
  return [
    alone(
      'Trust',
      '',
      'trust',
      s.frames.map((f) => f.trust),
    ),
    alone('Sigma of the worst corner', 'px', 'sigma', s.frames.map(worstSigma)),
    alone('Speed of the fastest corner', 'px a frame', 'speed', speed),
    along('x', 0),
    along('y', 1),
  ].join('');
}

/** What a frame rests on, in words. */
function evidenceOf({ evidence }: TrackFrame): string {
  const kinds = Object.entries(evidence).filter(([, v]) => v > 0);
  return kinds.map(([k, v]) => `${k} ${Math.round(100 * v)} %`).join(', ') || 'nothing: bridged';
}

/** Frames that a section lists. */
const LISTED = 8;

function weakestOf({ plate }: Track, s: ScreenTrack): string {
  const weakest = [...s.frames].sort((a, b) => a.trust - b.trust).slice(0, LISTED);
  const row = (f: TrackFrame): string =>
    `<tr><td>${f.frame + plate.firstFrame}</td><td>${f.trust.toFixed(2)}</td><td>${worstSigma(f).toFixed(2)}</td><td>${escaped(evidenceOf(f))}</td></tr>`;
  return `<h3>Weakest frames</h3><table><tr><th>frame</th><th>trust</th><th>sigma, px</th><th>rests on</th></tr>${weakest.map(row).join('')}</table>`;
}

function driftOf({ plate }: Track, proof: ReportProof | undefined): string {
  if (!proof || proof.worst.length === 0) return '';
  const row = (w: ReportProof['worst'][number]): string =>
    `<tr><td>${w.frame + plate.firstFrame}</td><td>${w.drift.toFixed(2)}</td><td>${escaped(w.why)}</td></tr>`;
  return `<h3>Farthest drift</h3><table><tr><th>frame</th><th>drift, px</th><th></th></tr>${proof.worst.map(row).join('')}</table>`;
}

function section(track: Track, s: ScreenTrack, proof: ReportProof | undefined): string {
  const facts = factsOf(track, s, proof).map(([k, v]) => `<tr><th>${escaped(k)}</th><td>${escaped(v)}</td></tr>`);
  const followed = s.frames.length === 0 ? '' : chartsOf(track, s) + weakestOf(track, s);
  return `<section><h2>${escaped(s.name)}</h2><table>${facts.join('')}</table>
${followed}
${driftOf(track, proof)}</section>`;
}

/** A page in HTML that tells what was followed and how well it is known. */
export function writeReport(track: Track, parts: ReportParts = {}): string {
  const { plate } = track;
  return `<!doctype html>
<html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Report: ${escaped(plate.name)}</title>
<style>
body { font: 14px/1.45 system-ui, sans-serif; color: #16221f; background: #f7f4ec; max-width: 760px; margin: 2rem auto; padding: 0 1rem; }
h1 { font-size: 1.4rem; } h2 { border-top: 2px solid #8a6d2f; padding-top: 0.6rem; margin-top: 1.6rem; } h3 { font-size: 1rem; }
table { border-collapse: collapse; margin: 0.5rem 0; } th { text-align: left; font-weight: 600; padding: 2px 14px 2px 0; } td { padding: 2px 14px 2px 0; font-variant-numeric: tabular-nums; }
figure { margin: 0.8rem 0; break-inside: avoid; } figcaption { font-weight: 600; } figcaption span { font-weight: 400; color: #50605b; } svg { width: 100%; height: auto; display: block; }
.ground { fill: #ebe6d8; } .line { fill: none; stroke: #1d4a43; stroke-width: 1.4; } .axis { display: flex; justify-content: space-between; font-size: 12px; color: #50605b; }
.thumbs { display: flex; flex-wrap: wrap; gap: 8px; } .thumbs figure { margin: 0; } .thumbs img { width: 176px; display: block; }
@media print { body { background: #fff; margin: 0; max-width: none; } section { break-before: page; } }
</style>
<h1>${escaped(plate.name)}</h1>
<p>${plate.width}x${plate.height}, ${plate.frameCount} frames at ${(plate.frameRate[0] / plate.frameRate[1]).toFixed(3).replace(/\.?0+$/, '')} a second, labels from ${plate.firstFrame}. Lengths in px of the plate.</p>
${parts.settings?.length ? `<table>${parts.settings.map(([k, v]) => `<tr><th>${escaped(k)}</th><td>${escaped(v)}</td></tr>`).join('')}</table>` : ''}
${parts.thumbnails?.length ? `<div class="thumbs">${parts.thumbnails.map((t) => `<figure><img src="${t.url}" alt="Frame ${t.frame + plate.firstFrame}"><figcaption><span>${t.frame + plate.firstFrame}</span></figcaption></figure>`).join('')}</div>` : ''}
${track.screens
  .map((s) =>
    section(
      track,
      s,
      parts.proofs?.find((p) => p.screen === s.name),
    ),
  )
  .join('\n')}
</html>
`;
}
