/**
 * What a request is answered with when it cannot be done: a status, a code for the interface, a sentence for the
 * person.
 */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly details?: unknown,
  ) {
    super(message);
    this.name = 'ApiError';
  }
}

export function notFound(what: string): ApiError {
  return new ApiError(404, 'not-found', `${what} does not exist; it may have been deleted.`);
}
