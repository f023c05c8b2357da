/** The OpenAPI document: valid by the standard's own schema, and about every route that there is. */
import { Validator } from '@seriousme/openapi-schema-validator';
import { describe, expect, it } from 'vitest';
import { openApi } from '../../contracts/src/open-api';
import { ROUTES } from '../../contracts/src/routes';

interface Operation {
  readonly operationId: string;
  readonly parameters?: readonly { readonly name: string }[];
  readonly requestBody?: { readonly content: { 'application/json': { schema: { $ref?: string } } } };
}
const document = openApi('1.2.3') as unknown as {
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
  readonly components: { readonly schemas: Readonly<Record<string, unknown>> };
};
const operations = Object.entries(document.paths).flatMap(([path, all]) =>
  Object.entries(all).map(([method, operation]) => ({ path, method, operation })),
);

/** Everything that points at something. */
function references(value: unknown): string[] {
  if (typeof value !== 'object' || value === null) return [];
  return Object.entries(value).flatMap(([k, v]) => (k === '$ref' ? [String(v)] : references(v)));
}

describe('the document', () => {
  it('is valid OpenAPI 3.1 (the schema of the OpenAPI Initiative, as the validator package holds it)', async () => {
    const validator = new Validator();
    const result = await validator.validate(JSON.parse(JSON.stringify(document)) as never);
    expect(JSON.stringify(result.errors ?? []).slice(0, 500)).toBe('[]');
    expect(result.valid).toBe(true);
    expect(validator.version).toBe('3.1');
  });
  it('has a claim that can fail', async () => {
    const { openapi: _, ...without } = JSON.parse(JSON.stringify(document)) as Record<string, unknown>;
    expect((await new Validator().validate({ ...without, openapi: '3.1.0', paths: 7 } as never)).valid).toBe(false);
  });
  it('holds every route once, under a name of its own', () => {
    expect(operations).toHaveLength(Object.keys(ROUTES).length);
    const names = operations.map((o) => o.operation.operationId);
    expect(new Set(names).size).toBe(names.length);
    expect(names).toContain('putScreensId');
  });
  it('names the variable parts of each address, and what is taken', () => {
    for (const { path, operation } of operations) {
      const named = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => name);
      expect((operation.parameters ?? []).map((p) => p.name)).toEqual(named);
    }
    const save = document.paths['/api/shots/{id}/review']!['post']!;
    expect(save.requestBody!.content['application/json'].schema.$ref).toBe('#/components/schemas/requests.reviewNote');
  });
  it('points at nothing that is not there', () => {
    const known = new Set(Object.keys(document.components.schemas).map((k) => `#/components/schemas/${k}`));
    const pointed = references(document);
    expect(pointed.length).toBeGreaterThan(100);
    expect(pointed.filter((r) => !known.has(r)).join()).toBe('');
  });
  it('writes lists of fixed length as JSON Schema 2020-12 does', () => {
    expect(JSON.stringify(document)).not.toMatch(/"items":\[/);
    expect(JSON.stringify(document)).toMatch(/"prefixItems":\[/);
  });
});
