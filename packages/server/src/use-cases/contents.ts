/**
 * Made-up content as documents. A Screen that shows one holds it as it stood then, so that whatever is made of its recipe needs
 * nothing else; `showContent` brings all of them up to date.
 */
import type { Answer, BodyOf } from '@yarlop/contracts/routes';
import type { ScreenFile } from '@yarlop/contracts/validate';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { ScreenRow } from '../rows';
import * as contents from '../sql/contents';
import * as screens from '../sql/screens';
import { findProduction } from './find-production';
import { saveScreen } from './save-screen';

type Content = Answer<'content'>;
type MadeFile = NonNullable<NonNullable<ScreenFile['fill']>['made']>;
type ContentRow = Omit<Content, 'shownBy' | 'document'> & { readonly document: MadeFile };
type ShownBy = Content['shownBy'][number] & { readonly content: number };

async function withScreens(c: Context, production: number, rows: readonly ContentRow[]): Promise<Content[]> {
  const shown = await c.db.all<ShownBy>(contents.contentShownBy, [production]);
  return rows.map((row) => ({
    ...row,
    shownBy: shown.filter((s) => s.content === row.id).map(({ content: _content, ...by }) => by),
  }));
}

async function findRow(c: Context, id: number): Promise<ContentRow> {
  const row = await c.db.one<ContentRow>(contents.findContent, [id]);
  if (!row) throw notFound('The content');
  return row;
}

/** @throws ApiError where there is no such production */
export async function contentsOf(c: Context, production: number): Promise<Content[]> {
  await findProduction(c, production);
  return withScreens(c, production, await c.db.all<ContentRow>(contents.listContents, [production]));
}

/** @throws ApiError where there is no such content */
export async function findContent(c: Context, id: number): Promise<Content> {
  const row = await findRow(c, id);
  const [content] = await withScreens(c, row.productionId, [row]);
  return content!;
}

/** @throws ApiError where there is no such production */
export async function addContent(
  c: Context,
  production: number,
  { name, document }: BodyOf<'POST /productions/:id/contents'>,
): Promise<Content> {
  await findProduction(c, production);
  const { insertId } = await c.db.run(contents.insertContent, [production, name, JSON.stringify(document)]);
  return findContent(c, insertId);
}

/** What is left out stays. @throws ApiError 409 with the newest where it was saved elsewhere since */
export async function changeContent(c: Context, id: number, part: BodyOf<'PUT /contents/:id'>): Promise<Content> {
  const before = await findRow(c, id);
  const document = JSON.stringify(part.document ?? before.document);
  const { affectedRows } = await c.db.run(contents.saveContent, [
    part.name ?? before.name,
    document,
    id,
    part.revision,
  ]);
  if (affectedRows === 0)
    throw new ApiError(
      409,
      'stale',
      `"${before.name}" was saved elsewhere (it is at revision ${before.revision}, yours started from ${part.revision}); nothing was overwritten.`,
      await findContent(c, id),
    );
  return findContent(c, id);
}

/** Screens keep what they show. @throws ApiError where there is no such content */
export async function deleteContent(c: Context, id: number): Promise<void> {
  await findRow(c, id);
  await c.db.run(contents.deleteContent, [id]);
}

/** A recipe whose slot shows a document as it stands. */
function showing(recipe: ScreenFile, { id, document, revision }: ContentRow): ScreenFile {
  return { ...recipe, fill: { ...recipe.fill, made: document, content: { id, revision } } };
}

/**
 * Brings every Screen that shows the content up to date; each becomes a step that can be taken back.
 * @returns the Screens that were not, with the revision that each had before
 * @throws ApiError where a Screen was saved by somebody else meanwhile
 */
export async function showContent(c: Context, id: number): Promise<{ screens: { id: number; revision: number }[] }> {
  const row = await findRow(c, id);
  const all = await c.db.all<ScreenRow>(screens.listScreensOfProduction, [row.productionId]);
  const behind = all.filter(({ recipe: { fill } }) => {
    return fill?.content?.id === id && fill.content.revision !== row.revision;
  });
  for (const s of behind)
    await saveScreen(c, s.id, s.revision, showing(s.recipe, row), `Show "${row.name}"`.slice(0, 60));
  return { screens: behind.map((s) => ({ id: s.id, revision: s.revision })) };
}
