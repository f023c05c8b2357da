import { toTrackFile, writeTrackJson } from '@yarlop/core/formats/track-json';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import type { ImportFormat } from '@yarlop/pipeline/track-file';
import { IMPORT_FORMATS, importTrack } from '@yarlop/pipeline/track-file';
import { writeWhole } from '@yarlop/pipeline/write-whole';

export async function importCommand(path: string, options: { as: string; out: string }): Promise<void> {
  if (!(IMPORT_FORMATS as readonly string[]).includes(options.as))
    throw new InputError(
      `tracks are not read from the format "${options.as}"; use one of ${IMPORT_FORMATS.join(', ')}.`,
    );
  await writeWhole(options.out, writeTrackJson(toTrackFile(await importTrack(path, options.as as ImportFormat))));
}
