/**
 * Keys of anything that changes over the shot, wherever they stand in a recipe: found, moved, copied, deleted, eased.
 * Nothing is changed in place; what no key was chosen of stays the very same.
 */
import { clamp } from '../../clamp';
import type { Ease } from './keys';

/** Members and places in lists that lead to keys. */
export type KeyPath = readonly (string | number)[];

/** A key of a number, or of a shape, which has no value of its own. */
export interface FrameKey {
  readonly frame: number;
  readonly value?: number;
  readonly ease?: Ease;
}

/** Keys in rising order of their frames. */
export interface KeyTrack {
  readonly path: KeyPath;
  readonly keys: readonly FrameKey[];
}

export interface ChosenKey {
  readonly path: KeyPath;
  readonly frame: number;
}

const isObject = (v: unknown): v is object => typeof v === 'object' && v !== null;

function isKeys(v: unknown): v is readonly FrameKey[] {
  return Array.isArray(v) && v.length > 0 && v.every((k) => isObject(k) && 'frame' in k && typeof k.frame === 'number');
}

/** Values measured frame by frame are no keys: they stand in lists of numbers. */
function collect(node: unknown, path: KeyPath, out: KeyTrack[]): void {
  if (!isObject(node)) return;
  if (isKeys(node)) {
    out.push({ path, keys: node });
    return;
  }
  for (const [name, child] of Object.entries(node))
    collect(child, [...path, Array.isArray(node) ? Number(name) : name], out);
}

/** All that has keys, in the order in which it stands. */
export function keyTracks(root: unknown): KeyTrack[] {
  const out: KeyTrack[] = [];
  collect(root, [], out);
  return out;
}

/** One text for one path. */
export function pathId(path: KeyPath): string {
  return path.join('.');
}

function at(root: unknown, path: KeyPath): unknown {
  return path.reduce<unknown>((node, step) => (node as Record<string | number, unknown>)[step], root);
}

/** The root with another value at a path; undefined takes the member out. */
function withAt(node: unknown, [step, ...rest]: KeyPath, value: unknown): unknown {
  if (step === undefined) return value;
  const child = (node as Record<string | number, unknown>)[step];
  const next = withAt(child, rest, value);
  if (Array.isArray(node)) return node.with(step as number, next);
  // Members stay in their order: what is listed by it does not jump about.
  const members = Object.entries(node as object).map(([k, v]) => [k, k === step ? next : v] as const);
  return Object.fromEntries(members.filter(([, v]) => v !== undefined));
}

/** Chosen frames by path. */
function byPath(chosen: readonly ChosenKey[]): Map<string, { path: KeyPath; frames: Set<number> }> {
  const all = new Map<string, { path: KeyPath; frames: Set<number> }>();
  for (const { path, frame } of chosen) {
    const own = all.get(pathId(path)) ?? { path, frames: new Set() };
    own.frames.add(frame);
    all.set(pathId(path), own);
  }
  return all;
}

/** Each chosen track as `change` makes it of its chosen keys and the others. */
function changed<T>(
  root: T,
  chosen: readonly ChosenKey[],
  change: (own: readonly FrameKey[], others: readonly FrameKey[]) => unknown,
): T {
  let made: unknown = root;
  for (const { path, frames } of byPath(chosen).values()) {
    const keys = at(root, path);
    if (!isKeys(keys)) continue;
    const own = keys.filter((k) => frames.has(k.frame));
    const others = keys.filter((k) => !frames.has(k.frame));
    if (own.length > 0) made = withAt(made, path, change(own, others));
  }
  return made as T;
}

/** In rising order; `first` go before `second` where both have a key on a frame. */
function joined(first: readonly FrameKey[], second: readonly FrameKey[]): FrameKey[] {
  const taken = new Set(first.map((k) => k.frame));
  return [...first, ...second.filter((k) => !taken.has(k.frame))].sort((a, b) => a.frame - b.frame);
}

/** By how many frames chosen keys can go, so that all of them stay in the shot. @param last frame of the shot */
export function roomFor(chosen: readonly ChosenKey[], by: number, last: number): number {
  const frames = chosen.map((k) => k.frame);
  return clamp(by, -Math.min(...frames), last - Math.max(...frames));
}

/** Keys so many frames on, as far as the shot reaches; one that comes upon another takes its place. */
export function movedKeys<T>(root: T, chosen: readonly ChosenKey[], by: number, last: number): T {
  const d = roomFor(chosen, by, last);
  return changed(root, chosen, (own, others) =>
    joined(
      own.map((k) => ({ ...k, frame: k.frame + d })),
      others,
    ),
  );
}

/** Keys once more, the first of them on frame `to`; those that would lie beyond the shot are left out. */
export function copiedKeys<T>(root: T, chosen: readonly ChosenKey[], to: number, last: number): T {
  const d = to - Math.min(...chosen.map((k) => k.frame));
  return changed(root, chosen, (own, others) =>
    joined(
      own.map((k) => ({ ...k, frame: k.frame + d })).filter((k) => k.frame >= 0 && k.frame <= last),
      [...own, ...others],
    ),
  );
}

/** Without the keys; a number that loses all of them is steady at the value of the first. */
export function withoutKeys<T>(root: T, chosen: readonly ChosenKey[]): T {
  return changed(root, chosen, (own, others) => (others.length > 0 ? others : own[0]!.value));
}

/** Each chosen key as `change` makes it. */
function eachChanged<T>(root: T, chosen: readonly ChosenKey[], change: (k: FrameKey) => FrameKey): T {
  return changed(root, chosen, (own, others) => joined(own.map(change), others));
}

/** Keys, of numbers and of shapes, with another way on to the next one. */
export function easedKeys<T>(root: T, chosen: readonly ChosenKey[], ease: Ease): T {
  return eachChanged(root, chosen, (k) => ({ ...k, ease }));
}

/** Keys of numbers with another value; shapes have none. */
export function valuedKeys<T>(root: T, chosen: readonly ChosenKey[], value: number): T {
  return eachChanged(root, chosen, (k) => (k.value === undefined ? k : { ...k, value }));
}
