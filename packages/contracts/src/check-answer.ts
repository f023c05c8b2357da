/** Whether what the server says is what its contract says: for tests, since nothing at run time would mend it. */
import type { ValidateFunction } from 'ajv';
import * as generated from './generated/answer-validators.js';
import type { EventName, RouteName } from './routes';
import { EVENTS, ROUTES } from './routes';

const validators = generated as unknown as Readonly<Record<string, ValidateFunction>>;

function check(name: string, what: string, value: unknown): void {
  const validate = validators[name]!;
  if (validate(value)) return;
  const [e] = validate.errors ?? [];
  const unknown = (e?.params as { additionalProperty?: string } | undefined)?.additionalProperty ?? '';
  throw new Error(`${what} is no "${name}": ${e?.instancePath} ${e?.message} ${unknown}`);
}

/** @throws Error with the place and the reason where an answer is not as its route has it */
export function checkAnswer(route: RouteName, value: unknown): void {
  check(ROUTES[route].answer, `What ${route} answers`, value);
}

/** @throws Error with the place and the reason where an event is not as its contract has it */
export function checkEvent(name: EventName, value: unknown): void {
  check(EVENTS[name], `The event "${name}"`, value);
}
