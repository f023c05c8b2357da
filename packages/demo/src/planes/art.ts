/** What stands on the sets of The Tidewater Post, drawn as vector pictures. All invented. */
import { hash } from '../noise';

/** A drawing of that size. @param defs what it refers to */
export const svg = (w: number, h: number, body: string, defs = ''): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" viewBox="0 0 ${w} ${h}"><defs>${defs}</defs>${body}</svg>`;

/** Grain of a material: stretched noise, tinted, over a ground. */
function grain(id: string, fx: number, fy: number, seed: number, strength: number): string {
  return `<filter id="${id}" x="0" y="0" width="100%" height="100%"><feTurbulence type="fractalNoise" baseFrequency="${fx} ${fy}" numOctaves="5" seed="${seed}"/><feColorMatrix values="0 0 0 0 0.06  0 0 0 0 0.04  0 0 0 0 0.03  ${strength} ${strength * 0.6} 0 0 ${-0.62 * strength}"/></filter>`;
}

function shade(id: string, w: number, h: number, x: number, y: number, r: number, dark: number): string {
  return `<radialGradient id="${id}" gradientUnits="userSpaceOnUse" cx="${x * w}" cy="${y * h}" r="${r * w}"><stop offset="0" stop-color="#000" stop-opacity="0"/><stop offset="1" stop-color="#000" stop-opacity="${dark}"/></radialGradient>`;
}

/** Oak boards with the soft shadow of what lies on them (shares of the picture). */
export function boards(
  w: number,
  h: number,
  shadow: readonly [number, number, number, number] | null,
  tint = '#8a6038',
  count = 7,
): string {
  let body = `<rect width="${w}" height="${h}" fill="${tint}"/>`;
  for (let i = 0; i < count; i++) {
    const y = (i * h) / count;
    body += `<rect x="0" y="${y}" width="${w}" height="${h / count}" fill="${hash(i, 3, 5) > 0.5 ? '#fff0d0' : '#1c0e04'}" opacity="${0.05 + 0.1 * hash(i, 4, 5)}"/><rect x="0" y="${y - 1.5}" width="${w}" height="3" fill="#1a0d05" opacity="0.75"/>`;
    for (let k = 0; k < 5; k++)
      body += `<ellipse cx="${hash(i, k, 11) * w}" cy="${y + (0.2 + 0.6 * hash(i, k, 12)) * (h / count)}" rx="${12 + 14 * hash(i, k, 13)}" ry="${4 + 5 * hash(i, k, 14)}" fill="#2b1505" opacity="0.55"/>`;
  }
  body += `<rect width="${w}" height="${h}" filter="url(#wood)"/>`;
  if (shadow)
    body += `<rect x="${shadow[0] * w}" y="${shadow[1] * h}" width="${shadow[2] * w}" height="${shadow[3] * h}" rx="30" fill="#000" opacity="0.62" filter="url(#soft)"/>`;
  return svg(
    w,
    h,
    `${body}<rect width="${w}" height="${h}" fill="url(#v)"/>`,
    `${grain('wood', 0.004, 0.11, 4, 2.2)}<filter id="soft" x="-30%" y="-30%" width="160%" height="160%"><feGaussianBlur stdDeviation="${w / 70}"/></filter>${shade('v', w, h, 0.4, 0.3, 0.85, 0.62)}`,
  );
}

/** Woven cloth with a fisherman's pattern. */
export function cloth(w: number, h: number, shadow: readonly [number, number, number, number]): string {
  let body = `<rect width="${w}" height="${h}" fill="#49606b"/>`;
  const step = 92;
  for (let y = 0; y < h; y += step)
    for (let x = 0; x < w; x += step) {
      const odd = (Math.round(x / step) + Math.round(y / step)) % 2 === 0;
      const c = ['#d9cfb4', '#b0553a', '#1f2f3d', '#c99a4b'][Math.floor(4 * hash(x, y, 21))]!;
      body += odd
        ? `<path d="M${x + 46} ${y + 8}l34 38l-34 38l-34 -38z" fill="${c}" opacity="0.85"/><path d="M${x + 46} ${y + 26}l18 20l-18 20l-18 -20z" fill="#2b3d48"/>`
        : `<path d="M${x + 12} ${y + 46}q34 -30 68 0M${x + 12} ${y + 60}q34 -30 68 0" stroke="${c}" stroke-width="6" fill="none" opacity="0.8"/>`;
    }
  body += `<rect width="${w}" height="${h}" filter="url(#weave)"/><rect x="${shadow[0] * w}" y="${shadow[1] * h}" width="${shadow[2] * w}" height="${shadow[3] * h}" rx="60" fill="#000" opacity="0.6" filter="url(#soft)"/>`;
  return svg(
    w,
    h,
    `${body}<rect width="${w}" height="${h}" fill="url(#v)"/>`,
    `${grain('weave', 0.35, 0.35, 8, 1.6)}<filter id="soft" x="-30%" y="-30%" width="160%" height="160%"><feGaussianBlur stdDeviation="${w / 80}"/></filter>${shade('v', w, h, 0.55, 0.4, 0.8, 0.55)}`,
  );
}

/** The net loft: planked wall, hanging nets and floats, a window with daylight. */
export function loft(w: number, h: number): string {
  let body = `<rect width="${w}" height="${h}" fill="#4e4638"/>`;
  for (let i = 0; i < 16; i++)
    body += `<rect x="${(i * w) / 16}" y="0" width="${w / 16 - 5}" height="${h}" fill="${hash(i, 1, 31) > 0.5 ? '#6b5d47' : '#3d362b'}" opacity="${0.35 + 0.4 * hash(i, 2, 31)}"/>`;
  body += `<rect width="${w}" height="${h}" filter="url(#wood)"/><rect x="${0.06 * w}" y="${0.08 * h}" width="${0.2 * w}" height="${0.42 * h}" fill="#d7e6ea"/><path d="M${0.16 * w} ${0.08 * h}v${0.42 * h}M${0.06 * w} ${0.28 * h}h${0.2 * w}" stroke="#2e281e" stroke-width="${w / 110}"/>`;
  for (let i = 0; i < 26; i++) {
    const x = (0.62 + 0.36 * (i / 26)) * w;
    body += `<path d="M${x} 0q${40 - 80 * hash(i, 5, 31)} ${0.4 * h} ${20 - 40 * hash(i, 6, 31)} ${0.86 * h}M${0.6 * w} ${i * 0.034 * h}q${0.2 * w} ${0.05 * h} ${0.4 * w} 0" stroke="#c2b28c" stroke-width="3" fill="none" opacity="0.6"/>`;
  }
  for (let i = 0; i < 9; i++)
    body += `<circle cx="${(0.6 + 0.38 * hash(i, 7, 31)) * w}" cy="${(0.2 + 0.6 * hash(i, 8, 31)) * h}" r="${w * (0.012 + 0.01 * hash(i, 9, 31))}" fill="${['#c4582e', '#d9a23c', '#e6dcc4'][i % 3]}"/><circle cx="${(0.597 + 0.38 * hash(i, 7, 31)) * w}" cy="${(0.195 + 0.6 * hash(i, 8, 31)) * h}" r="${w * 0.004}" fill="#fff" opacity="0.6"/>`;
  body += `<rect x="${0.32 * w}" y="${0.05 * h}" width="${0.2 * w}" height="${0.025 * h}" fill="#2b241a"/>`;
  for (let i = 0; i < 14; i++)
    body += `<rect x="${(0.325 + 0.0138 * i) * w}" y="${(0.05 - 0.03 - 0.012 * hash(i, 3, 3)) * h}" width="${0.011 * w}" height="${(0.03 + 0.012 * hash(i, 3, 3)) * h}" fill="${['#7b3f2a', '#2f4a55', '#b89b5d', '#4c5b3c'][i % 4]}"/>`;
  return svg(
    w,
    h,
    `${body}<rect width="${w}" height="${h}" fill="url(#v)"/>`,
    `${grain('wood', 0.09, 0.005, 14, 1.8)}${shade('v', w, h, 0.2, 0.3, 0.95, 0.7)}`,
  );
}

export interface DeviceLook {
  /** mm to px of the drawing */
  readonly width: number;
  readonly height: number;
  /** glass inside the body: left, top, right, bottom shares */
  readonly glass: readonly [number, number, number, number];
  readonly bodyRadius: number;
  readonly glassRadius: number;
  readonly body: string;
  readonly bezel: string;
  readonly content: string;
  /** what stands in the bezel, as SVG */
  readonly mark?: string;
}

/** A device seen from the front: metal edge, bezel, glass with its content (drawn in a box of the glass's size). */
export function device(d: DeviceLook): string {
  const { width: w, height: h } = d;
  const [l, t, r, b] = d.glass;
  const gx = l * w;
  const gy = t * h;
  const gw = (r - l) * w;
  const gh = (b - t) * h;
  const rim = Math.max(3, w * 0.008);
  return svg(
    w,
    h,
    `<rect width="${w}" height="${h}" rx="${d.bodyRadius}" fill="url(#metal)"/><rect x="${rim}" y="${rim}" width="${w - 2 * rim}" height="${h - 2 * rim}" rx="${Math.max(0, d.bodyRadius - rim)}" fill="${d.bezel}"/>
<clipPath id="g"><rect x="${gx}" y="${gy}" width="${gw}" height="${gh}" rx="${d.glassRadius}"/></clipPath><g clip-path="url(#g)"><svg x="${gx}" y="${gy}" width="${gw}" height="${gh}" viewBox="0 0 ${gw} ${gh}">${d.content}</svg></g>
<circle cx="${w / 2}" cy="${(t * h) / 2 + rim / 2}" r="${Math.max(2, 0.2 * t * h)}" fill="#0a0d12"/>${d.mark ?? ''}`,
    `<linearGradient id="metal" x1="0" y1="0" x2="1" y2="1"><stop offset="0" stop-color="${d.body}"/><stop offset="0.5" stop-color="#fff" stop-opacity="0.75"/><stop offset="1" stop-color="${d.body}"/></linearGradient>`,
  );
}

export const darkGlass = (w: number, h: number, colour: string): string =>
  `<rect width="${w}" height="${h}" fill="${colour}"/>`;

export function greenWithCrosses(w: number, h: number): string {
  const arm = w * 0.05;
  const at: [number, number][] = [
    [0.14, 0.09],
    [0.86, 0.09],
    [0.86, 0.91],
    [0.14, 0.91],
    [0.5, 0.5],
  ];
  return `<rect width="${w}" height="${h}" fill="#2fae4a"/>${at.map(([x, y]) => `<path d="M${x * w - arm} ${y * h}h${2 * arm}M${x * w} ${y * h - arm}v${2 * arm}" stroke="#12401c" stroke-width="${w * 0.018}"/>`).join('')}`;
}

/** A page of the logbook app: headings, lines, a tide curve, soundings. */
export function logPage(w: number, h: number, seed = 1, ground = '#e9e3d2', ink = '#22313a'): string {
  let body = `<rect width="${w}" height="${h}" fill="${ground}"/><rect width="${w}" height="${0.09 * h}" fill="#2d5560"/>`;
  for (let i = 0; i < 9; i++)
    body += `<rect x="${(0.05 + 0.1 * i) * w}" y="${0.03 * h}" width="${(0.03 + 0.05 * hash(i, 1, seed)) * w}" height="${0.03 * h}" fill="#e9d9a8"/>`;
  for (let i = 0; i < 15; i++) {
    let x = 0.05;
    for (let k = 0; x < 0.52; k++) {
      const l = 0.015 + 0.06 * hash(i, k, seed + 40);
      body += `<rect x="${x * w}" y="${(0.14 + 0.053 * i) * h}" width="${l * w}" height="${0.02 * h}" fill="${ink}" opacity="${0.55 + 0.4 * hash(i, k, 41)}"/>`;
      x += l + 0.012;
    }
  }
  const curve = Array.from(
    { length: 60 },
    (_, i) =>
      `${(0.6 + 0.0058 * i) * w} ${(0.3 + 0.1 * Math.sin(i * 0.22 + seed) * (0.6 + 0.4 * Math.cos(i * 0.07))) * h}`,
  ).join('L');
  body += `<rect x="${0.58 * w}" y="${0.14 * h}" width="${0.38 * w}" height="${0.32 * h}" fill="#cfdcd6"/><path d="M${curve}" stroke="#b0472c" stroke-width="${0.006 * w}" fill="none"/><path d="M${0.58 * w} ${0.3 * h}h${0.38 * w}" stroke="${ink}" stroke-width="2"/>`;
  for (let i = 0; i < 40; i++)
    body += `<circle cx="${(0.6 + 0.34 * hash(i, 7, seed)) * w}" cy="${(0.53 + 0.4 * hash(i, 8, seed)) * h}" r="${(0.004 + 0.01 * hash(i, 9, seed)) * w}" fill="${['#2d5560', '#c08a2e', '#7a2f22'][i % 3]}"/>`;
  return body;
}

/** The storm bulletin that plays on the wall set. */
export function bulletin(w: number, h: number, t: number): string {
  const sweep = Array.from({ length: 9 }, (_, i) => {
    const r = (0.06 + 0.045 * i) * h;
    const a = t * 0.11 + i * 0.5;
    return `<path d="M${0.62 * w + r * Math.cos(a)} ${0.47 * h + r * Math.sin(a)}A${r} ${r} 0 0 1 ${0.62 * w + r * Math.cos(a + 2)} ${0.47 * h + r * Math.sin(a + 2)}" stroke="${['#e8f2f4', '#9cc4cf', '#f0c15a'][i % 3]}" stroke-width="${0.018 * h}" fill="none"/>`;
  }).join('');
  const words = Array.from(
    { length: 12 },
    (_, i) =>
      `<rect x="${((((0.15 * i * w - t * 0.012 * w) % (1.8 * w)) + 1.8 * w) % (1.8 * w)) - 0.4 * w}" y="${0.885 * h}" width="${(0.04 + 0.07 * hash(i, 3, 51)) * w}" height="${0.045 * h}" fill="#fdf6df"/>`,
  ).join('');
  return svg(
    w,
    h,
    `<rect width="${w}" height="${h}" fill="#16495c"/><path d="M0 ${0.2 * h}Q${0.2 * w} ${(0.3 + 0.05 * Math.sin(t * 0.1)) * h} ${0.22 * w} ${0.6 * h}T${0.4 * w} ${h}H0z" fill="#547a4d"/>${sweep}<circle cx="${(0.3 + 0.004 * t) * w}" cy="${0.3 * h}" r="${0.05 * h}" fill="#e9eef0" opacity="0.8"/><rect y="${0.85 * h}" width="${w}" height="${0.12 * h}" fill="#8c2f22"/>${words}<rect x="${0.03 * w}" y="${0.05 * h}" width="${0.2 * w}" height="${0.08 * h}" fill="#f0c15a"/>`,
  );
}

/** Somebody in an oilskin, seen from the side, close to the camera. */
export function passerBy(w: number, h: number): string {
  return svg(
    w,
    h,
    `<g filter="url(#s)"><path d="M${0.5 * w} ${0.03 * h}q${0.16 * w} 0 ${0.17 * w} ${0.11 * h}q${0.02 * w} ${0.07 * h} ${-0.05 * w} ${0.11 * h}q${0.3 * w} ${0.04 * h} ${0.3 * w} ${0.3 * h}V${h}H${0.06 * w}V${0.55 * h}q0 ${-0.25 * h} ${0.28 * w} ${-0.31 * h}q${-0.06 * w} ${-0.05 * h} ${-0.04 * w} ${-0.1 * h}q${0.02 * w} ${-0.11 * h} ${0.2 * w} ${-0.11 * h}z" fill="url(#coat)"/><ellipse cx="${0.52 * w}" cy="${0.15 * h}" rx="${0.1 * w}" ry="${0.075 * h}" fill="#a9744f"/><path d="M${0.3 * w} ${0.4 * h}q${0.08 * w} ${0.3 * h} ${0.02 * w} ${0.6 * h}M${0.7 * w} ${0.38 * h}q${-0.05 * w} ${0.3 * h} 0 ${0.62 * h}" stroke="#000" stroke-opacity="0.35" stroke-width="${0.02 * w}" fill="none"/></g>`,
    `<linearGradient id="coat" x1="0" x2="1" y1="0" y2="0"><stop offset="0" stop-color="#8f6f1f"/><stop offset="0.35" stop-color="#c99f38"/><stop offset="0.75" stop-color="#6a5116"/><stop offset="1" stop-color="#3a2c0c"/></linearGradient><filter id="s"><feGaussianBlur stdDeviation="${w / 160}"/></filter>`,
  );
}

const SKIN = (id: string, x2: number, y2: number): string =>
  `<linearGradient id="${id}" x1="0" y1="0" x2="${x2}" y2="${y2}"><stop offset="0" stop-color="#8f5a42"/><stop offset="0.28" stop-color="#cf9375"/><stop offset="0.55" stop-color="#d8a083"/><stop offset="0.82" stop-color="#b0735a"/><stop offset="1" stop-color="#6f4030"/></linearGradient>`;

/**
 * A right hand pointing up and a little to the left with its index finger, in a knitted sleeve; the tip is at {@link
 * FINGERTIP}.
 */
export function pointingHand(w: number, h: number): string {
  const p = (x: number, y: number): string => `${x * w} ${y * h}`;
  const curled = [
    [0.48, 0.335, 0.2],
    [0.64, 0.36, 0.19],
    [0.79, 0.4, 0.15],
  ]
    .map(
      ([x, y, d]) =>
        `<rect x="${x! * w}" y="${y! * h}" width="${d! * w}" height="${0.19 * h}" rx="${(d! * w) / 2}" fill="url(#across)"/><path d="M${p(x! + 0.03, y! + 0.075)}q${(d! / 2 - 0.03) * w} ${-0.012 * h} ${(d! - 0.06) * w} 0" stroke="#6d3f2e" stroke-opacity="0.45" stroke-width="${0.012 * w}" fill="none"/>`,
    )
    .join('');
  const stitches = Array.from(
    { length: 13 },
    (_, i) =>
      `<path d="M${p(0.2 + 0.055 * i, 0.74)}L${p(0.16 + 0.06 * i, 1)}" stroke="#18242b" stroke-opacity="0.5" stroke-width="${0.012 * w}"/>`,
  ).join('');
  return svg(
    w,
    h,
    `<g filter="url(#s)"><path d="M${p(0.22, 0.76)}Q${p(0.2, 0.58)} ${p(0.25, 0.48)}L${p(0.3, 0.4)}H${p(0.9, 0.45)}Q${p(0.97, 0.6)} ${p(0.84, 0.76)}z" fill="url(#down)"/>${curled}
<path d="M${p(0.25, 0.52)}L${p(0.235, 0.25)}Q${p(0.225, 0.1)} ${p(0.24, 0.05)}Q${p(0.26, 0.008)} ${p(0.34, 0.008)}Q${p(0.42, 0.01)} ${p(0.435, 0.06)}Q${p(0.45, 0.16)} ${p(0.462, 0.28)}L${p(0.52, 0.5)}z" fill="url(#across)"/>
<path d="M${p(0.275, 0.075)}Q${p(0.28, 0.02)} ${p(0.34, 0.02)}Q${p(0.395, 0.022)} ${p(0.402, 0.075)}Q${p(0.34, 0.092)} ${p(0.275, 0.075)}z" fill="#e6c2b0" opacity="0.75"/>
<path d="M${p(0.26, 0.155)}q${0.085 * w} ${0.008 * h} ${0.165 * w} 0M${p(0.262, 0.165)}q${0.085 * w} ${0.008 * h} ${0.16 * w} 0M${p(0.255, 0.292)}q${0.095 * w} ${0.01 * h} ${0.19 * w} ${-0.004 * h}M${p(0.258, 0.304)}q${0.095 * w} ${0.01 * h} ${0.19 * w} ${-0.004 * h}" stroke="#6d3f2e" stroke-opacity="0.4" stroke-width="${0.011 * w}" fill="none"/>
<path d="M${p(0.17, 0.73)}Q${p(0.5, 0.7)} ${p(0.89, 0.73)}L${p(0.97, 1)}H${p(0.1, 1)}z" fill="url(#wool)"/>${stitches}<path d="M${p(0.17, 0.73)}Q${p(0.5, 0.7)} ${p(0.89, 0.73)}L${p(0.9, 0.765)}Q${p(0.5, 0.735)} ${p(0.16, 0.765)}z" fill="#3d5866"/></g>`,
    `${SKIN('across', 1, 0)}${SKIN('down', 0.6, 1)}<linearGradient id="wool"><stop offset="0" stop-color="#1b2930"/><stop offset="0.4" stop-color="#3a5360"/><stop offset="1" stop-color="#172229"/></linearGradient><filter id="s"><feGaussianBlur stdDeviation="${w / 160}"/></filter>`,
  );
}
/** Shares of the hand's width and height; where the fingertip lies in the drawing. */
export const FINGERTIP = [0.335, 0.01] as const;

/** Fingertips that come round the side of a device, each with its shadow. */
export function wrappedTips(w: number, h: number, count: number): string {
  const each = h / count;
  return svg(
    w,
    h,
    `<g filter="url(#s)">${Array.from({ length: count }, (_, i) => `<rect x="${0.12 * w}" y="${(i + 0.16) * each}" width="${(0.8 - 0.1 * ((i + 1) % 2)) * w}" height="${0.84 * each}" rx="${0.42 * each}" fill="#000" opacity="0.35"/><rect x="${0.02 * w}" y="${(i + 0.08) * each}" width="${(0.86 - 0.1 * ((i + 1) % 2)) * w}" height="${0.82 * each}" rx="${0.41 * each}" fill="url(#d)"/><ellipse cx="${(0.72 - 0.1 * ((i + 1) % 2)) * w}" cy="${(i + 0.46) * each}" rx="${0.13 * w}" ry="${0.26 * each}" fill="#e6c2b0" opacity="0.6"/>`).join('')}</g>`,
    `${SKIN('d', 0, 1)}<filter id="s"><feGaussianBlur stdDeviation="${w / 110}"/></filter>`,
  );
}

/** Palm and a long sleeve that hold a device from behind; the hand takes the upper 58 %. */
export function palm(w: number, whole: number): string {
  const h = 0.58 * whole;
  const tips = [0.16, 0.31, 0.46, 0.6]
    .map(
      (y, i) =>
        `<rect x="${(0.03 + 0.02 * (i % 2)) * w}" y="${y * h}" width="${0.7 * w}" height="${0.13 * h}" rx="${0.065 * h}" fill="url(#skin)"/>`,
    )
    .join('');
  return svg(
    w,
    whole,
    `<g filter="url(#s)"><path d="M${0.35 * w} ${0.2 * h}h${0.4 * w}q${0.2 * w} ${0.05 * h} ${0.2 * w} ${0.3 * h}q0 ${0.25 * h} ${-0.1 * w} ${0.32 * h}h${-0.4 * w}q${-0.16 * w} ${-0.15 * h} ${-0.1 * w} ${-0.62 * h}z" fill="url(#skin)"/>${tips}
<path d="M${0.42 * w} ${0.8 * h}Q${0.66 * w} ${0.75 * h} ${0.9 * w} ${0.79 * h}L${1.0 * w} ${whole}H${0.46 * w}z" fill="url(#wool)"/><path d="M${0.42 * w} ${0.8 * h}Q${0.66 * w} ${0.75 * h} ${0.9 * w} ${0.79 * h}L${0.91 * w} ${0.83 * h}Q${0.66 * w} ${0.79 * h} ${0.42 * w} ${0.84 * h}z" fill="#6f5d3c"/></g>`,
    `${SKIN('skin', 0.5, 1)}<linearGradient id="wool"><stop offset="0" stop-color="#2e2616"/><stop offset="0.45" stop-color="#5b4c30"/><stop offset="1" stop-color="#241d10"/></linearGradient><filter id="s"><feGaussianBlur stdDeviation="${w / 130}"/></filter>`,
  );
}

/** What the dark glass mirrors: a room with a bright window. */
export function windowLight(w: number, h: number, strength: number): string {
  const v = Math.round(255 * strength);
  const c = `rgb(${v},${v},${Math.min(255, v + 12)})`;
  return svg(
    w,
    h,
    `<rect width="${w}" height="${h}" fill="#0b0b0c"/><g filter="url(#s)"><rect x="${0.4 * w}" y="${0.22 * h}" width="${0.085 * w}" height="${0.36 * h}" fill="${c}"/><rect x="${0.495 * w}" y="${0.22 * h}" width="${0.085 * w}" height="${0.36 * h}" fill="${c}"/><rect x="${0.1 * w}" y="${0.5 * h}" width="${0.16 * w}" height="${0.2 * h}" fill="#2b2620"/><circle cx="${0.8 * w}" cy="${0.3 * h}" r="${0.03 * w}" fill="#c8a060" opacity="${strength}"/><rect x="0" y="${0.76 * h}" width="${w}" height="${0.24 * h}" fill="#17130f"/></g>`,
    `<filter id="s"><feGaussianBlur stdDeviation="${w / 260}"/></filter>`,
  );
}

/** A soft spot of light, to be added. */
export function spot(w: number): string {
  return svg(
    w,
    w,
    `<circle cx="${w / 2}" cy="${w / 2}" r="${w / 2}" fill="url(#g)"/>`,
    `<radialGradient id="g"><stop offset="0" stop-color="#fffaf0"/><stop offset="0.16" stop-color="#fffaf0" stop-opacity="0.55"/><stop offset="0.4" stop-color="#fff2dc" stop-opacity="0.14"/><stop offset="1" stop-color="#fff2dc" stop-opacity="0"/></radialGradient>`,
  );
}

/** Lid and keys of an open laptop, seen from above its front edge. */
export function keyboard(w: number, h: number): string {
  let body = `<rect width="${w}" height="${h}" rx="26" fill="#8e9296"/>`;
  for (let r = 0; r < 5; r++)
    for (let c = 0; c < 14; c++)
      body += `<rect x="${(0.06 + 0.0632 * c) * w}" y="${(0.08 + 0.105 * r) * h}" width="${0.054 * w}" height="${0.088 * h}" rx="6" fill="#202327"/><rect x="${(0.078 + 0.0632 * c) * w}" y="${(0.11 + 0.105 * r) * h}" width="${0.012 * w}" height="${0.03 * h}" fill="#b9bdc0" opacity="0.8"/>`;
  return svg(
    w,
    h,
    `${body}<rect x="${0.33 * w}" y="${0.66 * h}" width="${0.34 * w}" height="${0.28 * h}" rx="10" fill="#7e8286" stroke="#5f6366" stroke-width="3"/>`,
  );
}
