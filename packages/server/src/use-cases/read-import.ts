/** Reads what is to be brought in: a body of up to 60 MB, away from the server's own thread. */
import type { Requests } from '@yarlop/contracts/validate';
import { checkRequest } from '@yarlop/contracts/validate';
import type { Conventions } from '@yarlop/core/formats/conventions';
import { ownConventions } from '@yarlop/core/formats/conventions';
import type { Columns } from '@yarlop/core/formats/foreign-table';
import { foreignTrack, readForeign } from '@yarlop/core/formats/foreign-table';
import type { PlateInfo, Track } from '@yarlop/core/track';
import { parseTrackText } from '@yarlop/pipeline/track-file';
import { ApiError } from '../api-error';

export type Asked = NonNullable<Requests['importTrack']>;

export interface ReadImport {
  /** what was asked for, without the text itself */
  readonly asked: Omit<Asked, 'text'>;
  readonly notes: readonly string[];
  /** of a foreign table: its first row of names, and what its columns are taken for */
  readonly header: readonly string[] | null;
  readonly columns: Columns | null;
  /** null where it must be said first which columns hold the frame and the corners */
  readonly track: Track | null;
}

function parsed(body: Uint8Array): Asked {
  try {
    return checkRequest('importTrack', JSON.parse(new TextDecoder().decode(body)));
  } catch (e) {
    if (e instanceof SyntaxError) throw new ApiError(400, 'invalid', 'The request is not valid JSON.');
    throw e;
  }
}

/**
 * @param body the request as it came, JSON in UTF-8
 * @param frameCount of the plate; frames beyond it are of no use
 * @throws ApiError, CoreError, ContractError or InputError with a sentence
 */
export function readImport(body: Uint8Array, plate: PlateInfo, frameCount: number): ReadImport {
  const { text, ...asked } = parsed(body);
  if (asked.as !== 'table') {
    const track = parseTrackText(text, asked.as, 'the file');
    return { asked, notes: [], header: null, columns: null, track: within(track, frameCount) };
  }
  const table = readForeign(text);
  const columns = (asked.columns as Columns | undefined) ?? table.columns;
  const header = table.header ?? (columns ? null : table.rows[0]!.values.map((_, i) => `column ${i + 1}`));
  if (!columns)
    return { asked, notes: ['Say which columns hold the frame and the corners.'], header, columns: null, track: null };
  const { track, notes } = foreignTrack(table, {
    name: asked.name ?? 'brought in',
    plate,
    columns,
    conventions: {
      ...ownConventions(plate.width, plate.height),
      ...(asked.conventions as Partial<Conventions> | undefined),
    },
    firstNumber: asked.firstNumber ?? 0,
  });
  return { asked, notes, header, columns, track: within(track, frameCount) };
}

/** Without the frames that the plate does not have. */
function within(track: Track, frameCount: number): Track {
  return {
    ...track,
    screens: track.screens.map((s) => ({ ...s, frames: s.frames.filter((f) => f.frame < frameCount) })),
  };
}
