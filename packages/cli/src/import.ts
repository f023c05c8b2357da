import { importTrack, writeTrack } from '@yarlop/pipeline/track-file';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { assertFormat } from './deliver';

export async function importCommand(path: string, options: { as: string; out: string }): Promise<void> {
  assertFormat(options.as);
  await writeWhole(options.out, writeTrack(await importTrack(path, options.as), 'json'));
}
