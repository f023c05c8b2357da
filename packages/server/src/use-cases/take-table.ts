/** A colour table joins the library under the hash of its text, once: in a thread of its own, since it may be large. */
import { createHash } from 'node:crypto';
import { parseCube } from '@yarlop/core/dress/colour/cube-table';
import type { Context } from '../context';
import * as tables from '../sql/colour-tables';

/** What a colour table is known by. */
export function tableHash(body: string): string {
  return createHash('sha256').update(body).digest('hex');
}

/** @returns what it is known by. @throws CoreError where the text is no table */
export async function takeTable(c: Pick<Context, 'db'>, name: string, body: string): Promise<string> {
  parseCube(body);
  const hash = tableHash(body);
  await c.db.run(tables.insertTable, [hash, name, body]);
  return hash;
}
