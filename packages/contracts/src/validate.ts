/** The doors of the system: JSON from outside is checked here, with the place and the reason of every fault. */
import type { ErrorObject, ValidateFunction } from 'ajv';
import * as generated from './generated/validators.js';
import type { ScreenFile } from './generated/screen';
import type { TemplateFile } from './generated/template';
import type { TrackFileShape } from './generated/track';
import type { CameraFileShape } from './generated/camera';
import type { Requests } from './generated/requests';
import type { Batches } from './generated/batches';
import type { Jobs } from './generated/jobs';

export type { CameraFileShape, ScreenFile, TemplateFile, TrackFileShape, Requests };
export type BatchFile = NonNullable<Batches['batch']>;
export type ProjectFile = NonNullable<Batches['project']>;
export type RequestName = keyof Requests;
export type JobKind = keyof Jobs;
/** What a job of a kind is to do. */
export type JobInput<K extends JobKind> = Jobs[K];

export interface Fault {
  /** a path into the document, such as `pin[2][0]`; empty for the whole */
  readonly place: string;
  readonly reason: string;
}

export class ContractError extends Error {
  constructor(
    what: string,
    readonly faults: readonly Fault[],
  ) {
    super(
      `${what}: ${faults
        .slice(0, 3)
        .map((f) => (f.place ? `${f.place} ${f.reason}` : f.reason))
        .join('; ')}${faults.length > 3 ? `; and ${faults.length - 3} more` : ''}.`,
    );
    this.name = 'ContractError';
  }
}

function place(pointer: string): string {
  return pointer
    .split('/')
    .slice(1)
    .map((part, i) => (/^\d+$/.test(part) ? `[${part}]` : (i > 0 ? '.' : '') + part))
    .join('');
}

function reason(e: ErrorObject): string {
  const p = e.params as Record<string, unknown>;
  switch (e.keyword) {
    case 'additionalProperties':
      return `has an unknown member "${String(p['additionalProperty'])}"; remove it or check its spelling`;
    case 'required':
      return `lacks the member "${String(p['missingProperty'])}"`;
    case 'enum':
      return `must be one of ${(p['allowedValues'] as unknown[]).map(String).join(', ')}`;
    case 'const':
      return `must be ${JSON.stringify(p['allowedValue'])}`;
    case 'type':
      return `must be ${/^[aeiou]/.test(String(p['type'])) ? 'an' : 'a'} ${String(p['type'])}`;
    case 'minItems':
      return `must have at least ${String(p['limit'])} entries`;
    case 'maxItems':
      return `must have at most ${String(p['limit'])} entries`;
    case 'minimum':
      return `must be at least ${String(p['limit'])}`;
    case 'maximum':
      return `must be at most ${String(p['limit'])}`;
    case 'pattern':
      return `is not of the form that it needs (${(e.parentSchema as { description?: string } | undefined)?.description ?? `pattern ${String(p['pattern'])}`})`;
    default:
      return e.message ?? 'is not valid';
  }
}

/** Whether a value that says its kind was held against the shape of another. */
function isOfAnotherKind(e: ErrorObject): boolean {
  if (e.keyword === 'const') return e.instancePath.endsWith('/kind');
  const { properties } = (e.parentSchema ?? {}) as { properties?: { kind?: { const?: unknown } } };
  const kind = properties?.kind?.const;
  return kind !== undefined && (e.data as { kind?: unknown } | null)?.kind !== kind;
}

/** What is wrong with a value, without what it lacks to be of another kind; all where it is of none. */
function ofTheirKind(errors: readonly ErrorObject[]): readonly ErrorObject[] {
  const left = errors.filter((e) => !isOfAnotherKind(e));
  return left.some((e) => e.keyword !== 'anyOf') ? left : errors;
}

const validators = generated as unknown as Record<string, ValidateFunction>;

function check<T>(validator: string, what: string, value: unknown): T {
  const validate = validators[validator]!;
  if (validate(value)) return value as T;
  const faults = ofTheirKind(validate.errors ?? [])
    .filter((e) => e.keyword !== 'anyOf')
    .map((e) => ({ place: place(e.instancePath), reason: reason(e) }));
  throw new ContractError(what, faults.length > 0 ? faults : [{ place: '', reason: 'is not valid' }]);
}

/** @throws ContractError */
export function checkTemplate(value: unknown): TemplateFile {
  return check('template', 'The template', value);
}

/** @throws ContractError */
export function checkScreen(value: unknown, what = 'The screen'): ScreenFile {
  return check('screen', what, value);
}

/** @throws ContractError */
export function checkTrack(value: unknown, what = 'The track'): TrackFileShape {
  return check('track', what, value);
}

/** @throws ContractError */
export function checkCamera(value: unknown, what = 'The camera'): CameraFileShape {
  return check('camera', what, value);
}

/** @throws ContractError */
export function checkRequest<N extends RequestName>(name: N, value: unknown): NonNullable<Requests[N]> {
  return check(name, 'The request', value);
}

/** @throws ContractError */
export function checkJob<K extends JobKind>(kind: K, value: unknown): JobInput<K> {
  return check(`${kind}Job`, 'What the job is to do', value);
}

/** @throws ContractError */
export function checkBatch(value: unknown, what: string): BatchFile {
  return check('batch', what, value);
}

/** @throws ContractError */
export function checkProject(value: unknown, what: string): ProjectFile {
  return check('project', what, value);
}
