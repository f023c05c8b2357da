/** A file that cannot be used, or a tool that failed; `message` is a sentence for the person: what, where, the mend. */
export class MediaError extends Error {
  constructor(
    readonly code: 'unusable' | 'sequence' | 'tool' | 'cancelled',
    message: string,
  ) {
    super(message);
    this.name = 'MediaError';
  }
}
