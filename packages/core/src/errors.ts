export type ErrorCode = 'degenerate' | 'invalid' | 'no-evidence';

/** Raised by the core for input that no computation can be made from; `message` is a sentence for the person. */
export class CoreError extends Error {
  constructor(
    readonly code: ErrorCode,
    message: string,
  ) {
    super(message);
    this.name = 'CoreError';
  }
}
