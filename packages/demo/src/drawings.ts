/** What is printed and shown on set: the nautical chart, and the fills. All invented for The Tidewater Post. */
import { fractal, hash } from './noise';

function path(points: readonly (readonly [number, number])[]): string {
  return `M${points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}`;
}

/** Level lines of a height field by walking squares; short segments are enough for print. */
function contour(
  width: number,
  height: number,
  level: number,
  step: number,
  f: (x: number, y: number) => number,
): string {
  let out = '';
  for (let y = 0; y < height; y += step)
    for (let x = 0; x < width; x += step) {
      const v = [f(x, y), f(x + step, y), f(x + step, y + step), f(x, y + step)].map((q) => q - level);
      const c: [number, number][] = [];
      const edge = (a: number, b: number, x0: number, y0: number, x1: number, y1: number): void => {
        if (v[a]! > 0 === v[b]! > 0) return;
        const t = v[a]! / (v[a]! - v[b]!);
        c.push([x0 + t * (x1 - x0), y0 + t * (y1 - y0)]);
      };
      edge(0, 1, x, y, x + step, y);
      edge(1, 2, x + step, y, x + step, y + step);
      edge(2, 3, x + step, y + step, x, y + step);
      edge(3, 0, x, y + step, x, y);
      if (c.length >= 2) out += path([c[0]!, c[1]!]);
    }
  return out;
}

export function nauticalChart(): string {
  const w = 2760;
  const h = 2040;
  const f = (x: number, y: number): number => fractal(x / 620, y / 620, 41, 5) + 0.16 * (x / w) - 0.1 * (y / h);
  const land: string[] = [];
  for (let y = 0; y < h; y += 12)
    for (let x = 0; x < w; x += 12) if (f(x + 6, y + 6) > 0.56) land.push(`M${x} ${y}h12v12h-12z`);
  const depths: string[] = [];
  for (let i = 0; i < 420; i++) {
    const x = 40 + hash(i, 1, 7) * (w - 80);
    const y = 60 + hash(i, 2, 7) * (h - 100);
    const v = f(x, y);
    if (v < 0.52)
      depths.push(
        `<text x="${x.toFixed(0)}" y="${y.toFixed(0)}" font-size="${v < 0.4 ? 26 : 22}">${Math.round((0.56 - v) * 120)}</text>`,
      );
  }
  const rose = Array.from({ length: 72 }, (_, i) => {
    const a = (i * Math.PI) / 36;
    const r = i % 6 === 0 ? 170 : 184;
    return path([
      [820 + r * Math.cos(a), 1340 + r * Math.sin(a)],
      [820 + 200 * Math.cos(a), 1340 + 200 * Math.sin(a)],
    ]);
  }).join('');
  const grid = [1, 2, 3, 4, 5].map((i) => `M${(i * w) / 6} 0V${h}M0 ${(i * h) / 6}H${w}`).join('');
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}">
    <rect width="100%" height="100%" fill="#e9e2cd"/><path d="${land.join('')}" fill="#dcc88f"/>
    <g fill="none" stroke="#4d7f93" stroke-width="2.4">${[0.28, 0.34, 0.4, 0.46, 0.51].map((l) => `<path d="${contour(w, h, l, 12, f)}"/>`).join('')}</g>
    <path d="${contour(w, h, 0.56, 12, f)}" fill="none" stroke="#3a3428" stroke-width="5"/>
    <path d="${grid}" stroke="#8b8674" stroke-width="1.6" fill="none"/>
    <g font-family="Liberation Sans, DejaVu Sans, sans-serif" fill="#2b3b42">${depths.join('')}</g>
    <g stroke="#9a3d5a" stroke-width="3" fill="none"><circle cx="820" cy="1340" r="200"/><circle cx="820" cy="1340" r="120"/><path d="${rose}M820 1110V1570M590 1340H1050"/></g>
    <path d="M300 300L1500 980L2300 1660" stroke="#9a3d5a" stroke-width="4" stroke-dasharray="30 14" fill="none"/>
    <rect x="24" y="24" width="${w - 48}" height="${h - 48}" fill="none" stroke="#2b3b42" stroke-width="6"/>
    <rect x="44" y="44" width="${w - 88}" height="${h - 88}" fill="none" stroke="#2b3b42" stroke-width="14" stroke-dasharray="60 60"/>
    <g font-family="Liberation Serif, DejaVu Serif, serif" fill="#2b3b42"><text x="1840" y="330" font-size="84" letter-spacing="6">MERROW SOUND</text><text x="1850" y="400" font-size="40" font-style="italic">Tidewater to Gannet Flats, soundings in fathoms</text></g>
  </svg>`;
}

/** A phone-shaped still: the tide clock. */
export function tideClock(): string {
  const w = 1080;
  const h = 2340;
  const cx = w / 2;
  const cy = 900;
  const ticks = Array.from({ length: 60 }, (_, i) => {
    const a = (i * Math.PI) / 30;
    const r = i % 5 === 0 ? 372 : 392;
    return `<path d="${path([
      [cx + r * Math.cos(a), cy + r * Math.sin(a)],
      [cx + 412 * Math.cos(a), cy + 412 * Math.sin(a)],
    ])}" stroke="#f1e6c8" stroke-width="${i % 5 === 0 ? 9 : 4}"/>`;
  }).join('');
  const wave = (y: number, amp: number, shift: number): string =>
    path([
      [0, h],
      [0, y],
      ...Array.from({ length: 55 }, (_, i): [number, number] => [i * 20, y + amp * Math.sin(i / 4.4 + shift)]),
      [w, h],
    ]);
  const curve = path(
    Array.from({ length: 97 }, (_, i): [number, number] => [
      90 + i * 9.4,
      1830 - 130 * Math.sin((i / 96) * 4 * Math.PI - 0.6),
    ]),
  );
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" font-family="Liberation Sans, DejaVu Sans, sans-serif" text-anchor="middle">
    <defs><linearGradient id="g" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#0d2b3a"/><stop offset=".55" stop-color="#1c5a66"/><stop offset="1" stop-color="#0a2430"/></linearGradient></defs>
    <rect width="${w}" height="${h}" fill="url(#g)"/>
    <text x="${cx}" y="210" font-size="76" fill="#f1e6c8" letter-spacing="10">GANNET FLATS</text><text x="${cx}" y="290" font-size="48" fill="#9fc4c0">Thursday, half flood</text>
    <circle cx="${cx}" cy="${cy}" r="432" fill="#0a2029" stroke="#d7a64a" stroke-width="14"/>${ticks}
    <text x="${cx}" y="${cy - 262}" font-size="54" fill="#f1e6c8">HIGH</text><text x="${cx}" y="${cy + 302}" font-size="54" fill="#f1e6c8">LOW</text>
    <path d="M${cx} ${cy}L${cx + 248} ${cy - 170}" stroke="#e8823a" stroke-width="22" stroke-linecap="round"/><circle cx="${cx}" cy="${cy}" r="34" fill="#e8823a"/>
    <text x="${cx}" y="1500" font-size="190" fill="#f6efdc" font-weight="bold">17:42</text><text x="${cx}" y="1580" font-size="52" fill="#9fc4c0">high water in 2 h 06 min, 4.1 m</text>
    <path d="${curve}" fill="none" stroke="#e8c77c" stroke-width="10"/><circle cx="362" cy="1795" r="24" fill="#e8823a"/>
    <path d="${wave(2080, 16, 0)}" fill="#2f7f86" opacity=".55"/><path d="${wave(2140, 14, 1.9)}" fill="#3d9a99" opacity=".5"/>
    <text x="${cx}" y="2260" font-size="44" fill="#cfe5e0">Wind NE 6, gusting 8</text></svg>`;
}

/** A still as wide as a laptop's glass: the harbour office's board of arrivals. */
export function harbourBoard(): string {
  const w = 1920;
  const h = 1200;
  const f = (x: number, y: number): number => fractal(x / 420, y / 420, 31, 4);
  const arrivals = [
    ['17:55', 'Merrow Lass', 'North quay', 'on time'],
    ['18:10', 'Gannet', 'Fish steps', 'on time'],
    ['18:40', 'Saltmarsh Belle', 'Ferry berth', '12 min late'],
    ['19:05', 'Pilot 3', 'Outer mooring', 'on time'],
    ['19:30', 'Teal of Tidewater', 'North quay', 'waits for tide'],
  ] as const;
  const row = ([time, name, berth, state]: readonly string[], i: number): string => {
    const y = 470 + i * 122;
    const late = state === 'on time' ? '#9fc4c0' : '#e8823a';
    return `<path d="M90 ${y + 44}H1180" stroke="#2f6f7d" stroke-width="3"/><g font-size="50"><text x="90" y="${y}" fill="#e8c77c" font-weight="bold">${time}</text><text x="270" y="${y}" fill="#f6efdc">${name}</text></g><g font-size="34"><text x="715" y="${y}" fill="#cfe5e0">${berth}</text><text x="1180" y="${y}" fill="${late}" text-anchor="end">${state}</text></g>`;
  };
  const curve = path(
    Array.from({ length: 97 }, (_, i): [number, number] => [
      1300 + i * 5.6,
      820 - 130 * Math.sin((i / 96) * 4 * Math.PI - 0.6),
    ]),
  );
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" font-family="Liberation Sans, DejaVu Sans, sans-serif">
    <rect width="100%" height="100%" fill="#0d2b3a"/><g fill="none" stroke="#1c5a66" stroke-width="3">${[0.36, 0.44, 0.52].map((l) => `<path d="${contour(w, h, l, 24, f)}"/>`).join('')}</g>
    <text x="90" y="170" font-size="96" fill="#f1e6c8" letter-spacing="8">TIDEWATER HARBOUR</text><text x="90" y="250" font-size="46" fill="#9fc4c0">Arrivals this evening</text>
    ${arrivals.map(row).join('')}
    <rect x="1270" y="360" width="560" height="650" rx="18" fill="#0a2029" stroke="#d7a64a" stroke-width="6"/><text x="1550" y="500" font-size="130" fill="#f6efdc" font-weight="bold" text-anchor="middle">17:42</text><text x="1550" y="570" font-size="38" fill="#9fc4c0" text-anchor="middle">half flood, 2.6 m</text>
    <path d="${curve}" fill="none" stroke="#e8c77c" stroke-width="9"/><circle cx="1462" cy="785" r="18" fill="#e8823a"/>
    <text x="1830" y="1120" font-size="38" fill="#cfe5e0" text-anchor="end">Wind NE 6, gusting 8</text></svg>`;
}

/** One frame of a clip: boats crossing a small chart; `t` in seconds. */
export function boats(t: number): string {
  const w = 720;
  const h = 1560;
  const f = (x: number, y: number): number => fractal(x / 260, y / 260, 77, 4);
  const boat = (i: number): string => {
    const x = 80 + ((i * 197 + t * (26 + 7 * i)) % 560);
    const y = 220 + i * 170 + 24 * Math.sin(t * 1.3 + i);
    return `<g transform="translate(${x.toFixed(2)} ${y.toFixed(2)})"><path d="M-34 0h68l-16 22h-36z" fill="#e8823a"/><path d="M-2-6V-58L28-6z" fill="#f6efdc"/><path d="M-60 30H60" stroke="#9fd0cc" stroke-width="3" opacity=".5"/></g>`;
  };
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" font-family="Liberation Sans, DejaVu Sans, sans-serif">
    <rect width="100%" height="100%" fill="#123d4c"/><g fill="none" stroke="#2f6f7d" stroke-width="3">${[0.35, 0.42, 0.5, 0.58].map((l) => `<path d="${contour(w, h, l, 15, f)}"/>`).join('')}</g>
    ${[0, 1, 2, 3, 4, 5, 6].map(boat).join('')}
    <rect y="1380" width="100%" height="180" fill="#0a2029"/><text x="36" y="1455" font-size="52" fill="#f6efdc">Seven boats out</text><text x="36" y="1515" font-size="36" fill="#9fc4c0">last report ${(12 + Math.floor(t)).toString()} s ago</text></svg>`;
}
