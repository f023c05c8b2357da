/** Raised by the core for input that no computation can be made from; `message` is a sentence for the person. */
export class CoreError extends Error {
  constructor(
    readonly code: 'degenerate' | 'invalid' | 'no-evidence',
    message: string,
  ) {
    super(message);
    this.name = 'CoreError';
  }
}
