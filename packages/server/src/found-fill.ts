/** What a slot's fill is read from, as it crosses to a worker. */
import type { MediaRow } from './rows';

export interface FoundMedia {
  readonly media: MediaRow;
  readonly original: string;
}

/**
 * What a slot's fill is read from: the picture or clip (a made-up fill's background), the clip before it, and the text
 * of its colour table.
 */
export interface FoundFill {
  readonly media: FoundMedia | null;
  readonly foreground: FoundMedia | null;
  /** of the layers of a made-up fill, each in its layer's place */
  readonly layers: readonly (FoundMedia | null)[];
  readonly table: string | null;
}
