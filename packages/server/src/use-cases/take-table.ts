/** A colour table joins the library under the hash of its text, once. */
import { createHash } from 'node:crypto';
import type { Context } from '../context';
import * as tables from '../sql/colour-tables';

/** What a table is known by. */
export function tableHash(body: string): string {
  return createHash('sha256').update(body).digest('hex');
}

/** @throws ApiError where the text is no table */
export async function takeTable(c: Context, name: string, body: string): Promise<string> {
  const hash = await c.readers.cube(body);
  await c.db.run(tables.insertTable, [hash, name, body]);
  return hash;
}
