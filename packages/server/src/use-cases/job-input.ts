/** What a job is to do, read back from the table of jobs: another version of Yarlop may have put it there. */
import type { JobInput, JobKind } from '@yarlop/contracts/validate';
import { ContractError, checkJob } from '@yarlop/contracts/validate';
import { ApiError } from '../api-error';
import type { JobRow } from '../rows';

/** @throws ApiError where it is not what a job of that kind may be told */
export function inputOf<K extends JobKind>(kind: K, { input }: Pick<JobRow, 'input'>): JobInput<K> {
  try {
    return checkJob(kind, input);
  } catch (e) {
    if (!(e instanceof ContractError)) throw e;
    throw new ApiError(422, 'invalid', `This job cannot be read back: ${e.message} Ask for it anew.`);
  }
}
