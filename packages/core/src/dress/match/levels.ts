/** Black, white and changing light of a Screen, from what is around it and what it shows itself. */
import { luminance } from '../../image/luminance';
import { median, quantile } from '../../statistics';
import type { Rgb } from '../colour/levels';
import type { MatchEvidence } from './evidence';
import { lightOf, percent, shownLight } from './evidence';
import { exposure, flicker } from './light-over-time';
import type { Proposal } from './proposal';
import { perFrame, round } from './proposal';

const LEVELS = {
  /** Places around the Screen without which nothing is told. By trial. */
  enough: 50,
  /** Quantile of the surroundings that stands for their black. By trial. */
  blackShare: 0.01,
  /** Share of the darkest that a picture shows at which black is taken. Common practice, no source. */
  belowShown: 1 / 3,
  /** Quantile of them that stands for their white. By trial. */
  whiteShare: 0.99,
  /**
   * Share of white; light of its black beyond which a lit screen is hazier than rooms make it: bright surroundings
   * without any black tell nothing of it. Common practice, no source.
   */
  haze: 0.012,
  /**
   * Share of the range; least light of a screen's white where its own picture does not tell of it: a screen is a
   * lamp, and near clipping where a room is exposed for. Common practice, no source.
   */
  lamp: 0.85,
  /** Code value, 0 to 1, at which a chroma green or blue is drawn. Common practice, no source. */
  chroma: 0.7,
  /**
   * Depth of flicker that is worth following; a filmed display flickers by about 2 % (common practice, no source). By
   * trial.
   */
  flicker: 0.04,
} as const;

const grey = (light: number): Rgb => [round(light), round(light), round(light)];

/** Light around the Screen, as if every frame were exposed as the reference is. */
interface Around {
  /** mean of the darkest */
  readonly near: Rgb;
  /** the brightest of the shot */
  readonly high: number;
  /** the darkest of whole pictures */
  readonly darkest: number;
}

function aroundOf(e: MatchEvidence, exposed: ReadonlyMap<number, number>): Around {
  const around = e.around.map(({ frame, light }) => light.map((v) => v / (exposed.get(frame) ?? 1)));
  const extremes = e.extremes.map(({ frame, range }) => range.map((v) => v / (exposed.get(frame) ?? 1)));
  const lights = around.map((p) => luminance(p[0]!, p[1]!, p[2]!));
  const low = quantile(lights, LEVELS.blackShare);
  const dark = around.filter((_, i) => lights[i]! <= low);
  return {
    near: [0, 1, 2].map((c) => round(dark.reduce((s, p) => s + p[c]!, 0) / Math.max(1, dark.length))) as unknown as Rgb,
    high: Math.max(quantile(lights, LEVELS.whiteShare), median(extremes.map((x) => x[1]!))),
    darkest: median(extremes.map((x) => x[0]!)),
  };
}

/** How bright the old screen would show white, by how bright it shows its colour; 0 where it shows none. */
function litWhite(e: MatchEvidence): number {
  return e.kind === 'keyed' ? lightOf(e, Math.max(...e.colour)) / lightOf(e, LEVELS.chroma) : 0;
}

/**
 * The darkest that the old screen tells by what it shows: its own darkest place is seldom black, and softened by the
 * lens, so that it only bounds it; a screen of one colour is as dark as its weakest channel. Infinity where it tells
 * nothing. @param about the darkest about it
 */
function screenBlack(e: MatchEvidence, about: number): number {
  if (e.kind === 'keyed') return lightOf(e, Math.min(...e.colour));
  if (e.kind !== 'picture') return Infinity;
  const shown = shownLight(e, LEVELS.blackShare);
  return LEVELS.belowShown * Math.min(Number.isNaN(shown) ? Infinity : shown, about);
}

/** The black, and what it was told by. */
function blackOf(e: MatchEvidence, { near, darkest }: Around): { black: Rgb; told: string } {
  const { own } = e;
  if (own && e.kind === 'dark') {
    const black = [0, 1, 2].map((c) => round(median(own.values.filter((_, k) => k % 3 === c)))) as unknown as Rgb;
    return { black, told: 'the dark glass shows' };
  }
  const deepest = Math.min(darkest, LEVELS.haze);
  const isHazy = deepest < luminance(...near);
  const beside = isHazy ? grey(deepest) : near;
  const screen = screenBlack(e, deepest);
  // What the old screen itself shows darker than the plate around it, this screen can show too.
  if (screen < luminance(...beside)) return { black: grey(screen), told: 'the old screen goes down to' };
  return { black: beside, told: isHazy ? 'black is taken at' : 'the darkest about the Screen is' };
}

/** Change of the shot's light, as it is said; and by frame, where it is worth following. */
function changeOf(e: MatchEvidence, exposed: ReturnType<typeof exposure>) {
  const light = exposed ?? flicker(e);
  const values = light.map((f) => f.value);
  const depth = quantile(values, 0.95) - quantile(values, 0.05);
  let told = '';
  if (exposed)
    told = `; the exposure changes by ${Math.log2(Math.max(...values) / Math.min(...values)).toFixed(1)} stops`;
  else if (depth > LEVELS.flicker) told = `; the light flickers by ${Math.round(100 * depth)} %`;
  return { told, followed: depth > LEVELS.flicker ? { sync: 1, measured: perFrame(light) } : {} };
}

/** Black and white of the Screen, and how its light changes; null where too little around it was seen. */
export function levels(e: MatchEvidence): Proposal | null {
  if (e.around.length < LEVELS.enough) return null;
  const exposed = exposure(e);
  const around = aroundOf(e, new Map(exposed?.map((x) => [x.frame, x.value])));
  const { black, told } = blackOf(e, around);
  const lit = litWhite(e);
  const shown = e.kind === 'picture' ? shownLight(e, LEVELS.whiteShare) || 0 : 0;
  const top = round(Math.min(1, Math.max(around.high, lit, shown, LEVELS.lamp)));
  const change = changeOf(e, exposed);
  const white = lit > 0 ? `; the screen would show white at ${percent(e, Math.min(1, lit))}` : '';
  return {
    part: 'levels',
    told: `${told} ${percent(e, luminance(...black))}, the brightest of the shot ${percent(e, around.high)}${white}${change.told}`,
    recipe: { levels: { black, white: [top, top, top], ...change.followed } },
  };
}
