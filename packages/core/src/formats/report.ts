/**
 * The report of a shot: one page that needs nothing else, on screen and on paper. What was followed, how sure, where it
 * is weakest, and how the corners move, as drawn lines.
 */
import { distance } from '../geometry/point';
import type { ScreenTrack, Track } from '../track';
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

/** A line over the frames; gaps where there is no value. */
function chart(
  title: string,
  unit: string,
  frames: readonly number[],
  series: readonly { readonly name: string; readonly values: readonly number[]; readonly dash: string }[],
  first: number,
  count: number,
): string {
  const all = series.flatMap((s) => s.values).filter(Number.isFinite);
  const low = Math.min(0, ...all.slice(0, 1), quantile(all, 0));
  const high = Math.max(1e-9, quantile(all, 1));
  const x = (f: number): string => ((W * (f + 0.5)) / Math.max(1, count)).toFixed(1);
  const y = (v: number): string => (H - 4 - ((H - 8) * (v - low)) / Math.max(1e-9, high - low)).toFixed(1);
  const line = (values: readonly number[]): string =>
    values
      .map((v, i) =>
        Number.isFinite(v) ? `${i > 0 && Number.isFinite(values[i - 1]!) ? 'L' : 'M'}${x(frames[i]!)} ${y(v)}` : '',
      )
      .join('');
  return `<figure><figcaption>${escaped(title)} <span>${escaped(`${low.toPrecision(3)} to ${high.toPrecision(3)} ${unit}`)}${series.length > 1 ? escaped(`; ${series.map((s) => s.name).join(', ')}`) : ''}</span></figcaption><svg viewBox="0 0 ${W} ${H}" role="img" aria-label="${escaped(title)}"><rect width="${W}" height="${H}" class="ground"/>${series.map((s) => `<path d="${line(s.values)}" class="line" stroke-dasharray="${s.dash}"><title>${escaped(s.name)}</title></path>`).join('')}</svg><div class="axis"><span>${first}</span><span>${first + count - 1}</span></div></figure>`;
}

const DASHES = ['', '6 3', '2 3', '8 3 2 3'];
const CORNERS = ['TL', 'TR', 'BR', 'BL'];

function section(track: Track, s: ScreenTrack, proof: ReportProof | undefined): string {
  const { plate } = track;
  const frames = s.frames.map((f) => f.frame);
  const sigma = s.frames.map((f) => Math.max(...f.sigma));
  const trust = s.frames.map((f) => f.trust);
  const speed = s.frames.map((f, i) =>
    i === 0 ? NaN : Math.max(...f.corners.map((c, k) => distance(c, s.frames[i - 1]!.corners[k]!))),
  );
  const weakest = [...s.frames].sort((a, b) => a.trust - b.trust).slice(0, 8);
  const label = (f: number): number => f + plate.firstFrame;
  const draw = (title: string, unit: string, series: Parameters<typeof chart>[3]): string =>
    chart(title, unit, frames, series, plate.firstFrame, plate.frameCount);
  const rows: [string, string][] = [
    [
      'Frames',
      s.frames.length > 0
        ? `${label(frames[0]!)} to ${label(frames.at(-1)!)} (${s.frames.length} of ${plate.frameCount})`
        : 'none',
    ],
    ['Reference frame', String(label(s.referenceFrame))],
    [
      'Trust, median and lowest',
      s.frames.length > 0 ? `${median(trust).toFixed(2)}, ${Math.min(...trust).toFixed(2)}` : '-',
    ],
    [
      'Sigma of the worst corner, median and 95th',
      s.frames.length > 0 ? `${median(sigma).toFixed(2)} px, ${quantile(sigma, 0.95).toFixed(2)} px` : '-',
    ],
    ['Bridged without evidence', String(s.frames.filter((f) => Object.keys(f.evidence).length === 0).length)],
    ...(s.stopped ?? []).map((t): [string, string] => [
      `Stopped ${t.direction}`,
      `frame ${label(t.frame)}: ${t.reason}`,
    ]),
    ...(proof ? [['Verdict', proof.verdict] as [string, string]] : []),
  ];
  return `<section><h2>${escaped(s.name)}</h2><table>${rows.map(([k, v]) => `<tr><th>${escaped(k)}</th><td>${escaped(v)}</td></tr>`).join('')}</table>
${
  s.frames.length === 0
    ? ''
    : draw('Trust', '', [{ name: 'trust', values: trust, dash: '' }]) +
      draw('Sigma of the worst corner', 'px', [{ name: 'sigma', values: sigma, dash: '' }]) +
      draw('Speed of the fastest corner', 'px a frame', [{ name: 'speed', values: speed, dash: '' }]) +
      (['x', 'y'] as const)
        .map((axis, k) =>
          draw(
            `Corners, ${axis}`,
            'px',
            CORNERS.map((name, c) => ({ name, dash: DASHES[c]!, values: s.frames.map((f) => f.corners[c]![k]!) })),
          ),
        )
        .join('') +
      `<h3>Weakest frames</h3><table><tr><th>frame</th><th>trust</th><th>sigma, px</th><th>rests on</th></tr>${weakest
        .map(
          (f) =>
            `<tr><td>${label(f.frame)}</td><td>${f.trust.toFixed(2)}</td><td>${Math.max(...f.sigma).toFixed(2)}</td><td>${escaped(
              Object.entries(f.evidence)
                .filter(([, v]) => v > 0)
                .map(([k, v]) => `${k} ${Math.round(100 * v)} %`)
                .join(', ') || 'nothing: bridged',
            )}</td></tr>`,
        )
        .join('')}</table>`
}
${proof && proof.worst.length > 0 ? `<h3>Farthest drift</h3><table><tr><th>frame</th><th>drift, px</th><th></th></tr>${proof.worst.map((w) => `<tr><td>${label(w.frame)}</td><td>${w.drift.toFixed(2)}</td><td>${escaped(w.why)}</td></tr>`).join('')}</table>` : ''}</section>`;
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
