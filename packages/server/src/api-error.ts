import { ContractError } from '@yarlop/contracts/validate';
import { CoreError } from '@yarlop/core/errors';
import { MediaError } from '@yarlop/media/media-error';
import { InputError } from '@yarlop/pipeline/pipeline-error';

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

/** What the person is told of an error that says what is wrong with their input; null for any other. */
export function refusalOf(e: unknown): ApiError | null {
  if (e instanceof ApiError) return e;
  if (e instanceof ContractError) return new ApiError(422, 'invalid', e.message, e.faults);
  if (e instanceof CoreError) return new ApiError(422, e.code, e.message);
  if (e instanceof InputError || e instanceof MediaError) return new ApiError(422, 'unusable', e.message);
  return null;
}

export function notFound(what: string): ApiError {
  return new ApiError(404, 'not-found', `${what} does not exist; it may have been deleted.`);
}
