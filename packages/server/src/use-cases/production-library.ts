/** A production's files: which they are, where each is used, and one in the place of another everywhere. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { MediaRow, ScreenRow } from '../rows';
import * as library from '../sql/library';
import * as media from '../sql/media';
import * as screens from '../sql/screens';
import { findProduction } from './find-production';
import { filesOfFill } from './fill-files';
import { findMedia } from './library';
import { saveScreen } from './save-screen';

interface Plate {
  readonly id: number;
  readonly name: string;
  readonly hash: string;
  readonly created: string;
}

/** A Screen that shows a file. */
interface Shown {
  readonly screen: number;
  readonly name: string;
  readonly shot: number;
  readonly shotName: string;
}

export interface LibraryItem extends Omit<MediaRow, 'source'> {
  /** when it came to this production; null where only its Screens or shots name it */
  readonly added: string | null;
  readonly plateOf: readonly { readonly id: number; readonly name: string }[];
  readonly shownBy: readonly Shown[];
}

/** Hashes of what is in a Screen's slot, and before it. */
interface Slots {
  readonly fill: string | null;
  readonly foreground: string | null;
  /** of the layers of what is made up; null without any */
  readonly layers: readonly string[] | null;
}

function filesOf(slots: readonly (string | null | undefined)[]): string[] {
  return [...new Set(slots.filter((hash) => typeof hash === 'string'))];
}

/** The files that a Screen shows by now; those that were in its slot before are not. */
function shownFiles({ fill }: ScreenFile): string[] {
  return filesOfFill(fill);
}

/** @param named what a row belongs to */
function grouped<T>(rows: readonly T[], named: (row: T) => readonly string[]): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const row of rows) for (const hash of named(row)) groups.set(hash, [...(groups.get(hash) ?? []), row]);
  return groups;
}

/** @throws ApiError where there is no such production */
export async function libraryOf(c: Context, production: number): Promise<LibraryItem[]> {
  await findProduction(c, production);
  const plates = await c.db.all<Plate>(library.platesOf, [production]);
  const showing = await c.db.all<Shown & Slots>(library.shownBy, [production]);
  const plateOf = grouped(plates, (p) => [p.hash]);
  const shownBy = grouped(showing, ({ fill, foreground, layers }) => filesOf([fill, foreground, ...(layers ?? [])]));
  const brought = await c.db.all<{ hash: string; added: string }>(library.broughtIn, [production]);
  const added = new Map(brought.map((b) => [b.hash, b.added]));
  const all = await c.db.all<Omit<MediaRow, 'source'>>(media.listMedia);
  return all
    .filter(({ hash }) => plateOf.has(hash) || shownBy.has(hash) || added.has(hash))
    .map((row) => ({
      ...row,
      added: added.get(row.hash) ?? plateOf.get(row.hash)?.[0]?.created ?? null,
      plateOf: (plateOf.get(row.hash) ?? []).map(({ id, name }) => ({ id, name })),
      shownBy: (shownBy.get(row.hash) ?? []).map(({ screen, name, shot, shotName }) => ({
        screen,
        name,
        shot,
        shotName,
      })),
    }));
}

/** Names a file, or says what it is grouped by; what is left out stays. @throws ApiError where there is no such file */
export async function describeFile(
  c: Context,
  hash: string,
  words: { readonly name?: string | undefined; readonly tags?: readonly string[] | undefined },
): Promise<MediaRow> {
  await findMedia(c, hash);
  await c.db.transaction(async (t) => {
    if (words.name !== undefined) await t.run(media.renameMedia, [words.name, hash]);
    if (words.tags !== undefined) await t.run(media.tagMedia, [JSON.stringify([...new Set(words.tags)]), hash]);
  });
  c.events.emit('media', { hash });
  return findMedia(c, hash);
}

type MadeFile = NonNullable<NonNullable<ScreenFile['fill']>['made']>;

function withOtherIn(made: MadeFile, swapped: (hash: string) => string): MadeFile {
  const { foreground, layers } = made;
  return {
    ...made,
    ...(foreground ? { foreground: { ...foreground, media: swapped(foreground.media) } } : {}),
    ...(layers ? { layers: layers.map((l) => (l.kind === 'picture' ? { ...l, media: swapped(l.media) } : l)) } : {}),
  };
}

/** What is in the slot, and before it, with one file in the place of another. */
function withOther(recipe: ScreenFile, from: string, to: string): ScreenFile {
  const { fill } = recipe;
  if (!fill) return recipe;
  const swapped = (hash: string): string => (hash === from ? to : hash);
  const made = fill.made && { made: withOtherIn(fill.made, swapped) };
  const own = fill.media !== undefined && { media: swapped(fill.media) };
  return { ...recipe, fill: { ...fill, ...made, ...own } };
}

/**
 * Puts one file in the place of another on all Screens of a production; each becomes a step that can be taken back.
 * @returns the Screens, with the revision that each had before
 * @throws ApiError where one of the files is not there, or a Screen was saved by somebody else meanwhile
 */
export async function replaceEverywhere(
  c: Context,
  production: number,
  { from, to }: { readonly from: string; readonly to: string },
): Promise<{ screens: { id: number; revision: number }[] }> {
  await findProduction(c, production);
  const [before, after] = [await findMedia(c, from), await findMedia(c, to)];
  if (after.state === 'failed')
    throw new ApiError(409, 'not-ready', `"${after.name}" could not be read in; bring it in again.`);
  const all = await c.db.all<ScreenRow>(screens.listScreensOfProduction, [production]);
  const showing = all.filter((s) => shownFiles(s.recipe).includes(from));
  for (const s of showing)
    await saveScreen(c, s.id, s.revision, withOther(s.recipe, from, to), `Replace "${before.name}"`.slice(0, 60));
  return { screens: showing.map(({ id, revision }) => ({ id, revision })) };
}
