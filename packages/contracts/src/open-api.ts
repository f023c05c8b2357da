/**
 * The contracts as an OpenAPI document (OpenAPI Specification 3.1.0), for whoever writes a program against a server: the
 * routes of `routes.ts` with the schemas that pages, server and tests go by.
 */
import { SCHEMAS } from './generated/schemas';
import type { RouteName } from './routes';
import { ROUTES } from './routes';

type Json = null | boolean | number | string | readonly Json[] | { readonly [key: string]: Json };
type JsonObject = Readonly<Record<string, Json>>;

const FILES = SCHEMAS as Readonly<Record<string, JsonObject>>;
/** What is ours alone in a schema, or belongs to a file as a whole. */
const LEFT_OUT = new Set(['tsType', '$id', '$schema', '$defs', 'definitions']);

const isObject = (v: Json | undefined): v is JsonObject => typeof v === 'object' && v !== null && !Array.isArray(v);

/** Where a schema stands in the document that another one points at. @param file that the reference stands in */
function placeOf(reference: string, file: string): string {
  const [named, path] = reference.split('#') as [string, string?];
  const of = named === '' ? file : named;
  const definition = path?.split('/').at(-1);
  return `#/components/schemas/${definition ? `${of}.${definition}` : of}`;
}

/**
 * A schema as the document holds it: references lead to its components, and lists of fixed length are written as JSON
 * Schema 2020-12 has them, `prefixItems`, where the files have an array under `items`.
 */
function translated(schema: Json, file: string): Json {
  if (Array.isArray(schema)) return schema.map((v: Json) => translated(v, file));
  if (!isObject(schema)) return schema;
  const out: Record<string, Json> = {};
  for (const [key, value] of Object.entries(schema)) {
    if (LEFT_OUT.has(key)) continue;
    if (key === '$ref') out[key] = placeOf(String(value), file);
    else if (key === 'items' && Array.isArray(value)) out['prefixItems'] = translated(value, file);
    else out[key] = translated(value, file);
  }
  return out;
}

/** Every definition of every file under its name, and each file that is a document of its own. */
function components(): Record<string, Json> {
  const all: Record<string, Json> = {};
  for (const [file, schema] of Object.entries(FILES)) {
    const own = schema['definitions'] ?? schema['$defs'];
    const definitions = isObject(own) ? own : {};
    for (const [name, definition] of Object.entries(definitions)) all[`${file}.${name}`] = translated(definition, file);
    if (file === 'screen' || file === 'camera') all[file] = translated(schema, file);
  }
  return all;
}

const json = (schema: Json): Json => ({ 'application/json': { schema } });
const REFUSAL: Json = {
  type: 'object',
  required: ['code', 'message'],
  properties: {
    code: { type: 'string', description: 'for programs' },
    message: { type: 'string', description: 'for people: what is wrong, where, and the mend' },
    details: { description: 'what goes with some codes' },
  },
};

/** `/shots/:id` as `/api/shots/{id}`, and its variable parts. */
function addressOf(pattern: string): { readonly path: string; readonly parameters: readonly Json[] } {
  const names = [...pattern.matchAll(/:(\w+)/g)].map(([, name]) => name!);
  return {
    path: `/api${pattern.replace(/:(\w+)/g, '{$1}')}`,
    parameters: names.map((name) => ({ name, in: 'path', required: true, schema: { type: 'string' } })),
  };
}

function operationOf(route: RouteName): JsonObject {
  const [method, pattern] = route.split(' ') as [string, string];
  const { body, answer } = ROUTES[route] as { body?: string; answer: string };
  const { parameters } = addressOf(pattern);
  const takes = method === 'POST' || method === 'PUT';
  const schema: Json = body ? { $ref: `#/components/schemas/requests.${body}` } : {};
  return {
    operationId: `${method.toLowerCase()}${pattern.replace(/[/:]+(\w)/g, (_, c: string) => c.toUpperCase())}`,
    tags: [pattern.split('/')[1]!],
    ...(parameters.length > 0 ? { parameters } : {}),
    ...(takes ? { requestBody: { required: body !== undefined, content: json(schema) } } : {}),
    responses: {
      '2XX': { description: 'Done.', content: json({ $ref: `#/components/schemas/answers.${answer}` }) },
      default: { description: 'Refused, or failed.', content: json({ $ref: '#/components/schemas/refusal' }) },
    },
  };
}

/** @param version of the application */
export function openApi(version: string): JsonObject {
  const paths: Record<string, Record<string, Json>> = {};
  for (const route of Object.keys(ROUTES) as RouteName[]) {
    const [method, pattern] = route.split(' ') as [string, string];
    (paths[addressOf(pattern).path] ??= {})[method.toLowerCase()] = operationOf(route);
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Yarlop', version, description: 'What the page and other programs ask of a Yarlop server.' },
    paths,
    components: { schemas: { ...components(), refusal: REFUSAL } },
  };
}
