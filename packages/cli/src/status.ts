import { ContractError } from '@yarlop/contracts/validate';
import { CoreError } from '@yarlop/core/errors';
import { MediaError } from '@yarlop/media/media-error';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { CommanderError } from 'commander';
import { interruption } from './interruption';

/** Whose fault an error is, as an exit status: 2 the call or an input file, 1 the job, 130 nobody's. */
export function statusOf(e: unknown): number {
  if (e instanceof CommanderError) return e.exitCode === 0 ? 0 : 2;
  if (interruption.requested) return 130;
  if (e instanceof InputError || e instanceof ContractError || e instanceof CoreError) return 2;
  if (e instanceof MediaError) return e.code === 'tool' ? 1 : 2;
  return 1;
}
