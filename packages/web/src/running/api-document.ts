/** What of the server's OpenAPI document is shown. */

interface Content {
  readonly content: { readonly 'application/json': { readonly schema: { readonly $ref?: string } } };
}
interface Operation {
  readonly operationId: string;
  readonly tags: readonly string[];
  readonly requestBody?: Content;
  readonly responses: { readonly '2XX': Content };
}
export interface ApiDocument {
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
  readonly components: { readonly schemas: Readonly<Record<string, unknown>> };
}

interface Shape {
  readonly name: string;
  readonly schema: unknown;
}
export interface ShownOperation {
  readonly id: string;
  readonly group: string;
  readonly method: string;
  readonly path: string;
  /** null where nothing is taken, or bytes and recipes, which have formats of their own */
  readonly takes: Shape | null;
  readonly answers: Shape;
}

function shapeOf({ components }: ApiDocument, { content }: Content): Shape | null {
  const reference = content['application/json'].schema.$ref;
  const key = reference?.split('/').at(-1);
  if (!key) return null;
  return { name: key.split('.').at(-1)!, schema: components.schemas[key] };
}

export function operationsOf(document: ApiDocument): ShownOperation[] {
  return Object.entries(document.paths).flatMap(([path, all]) =>
    Object.entries(all).map(([method, o]) => ({
      id: o.operationId,
      group: o.tags[0] ?? '',
      method: method.toUpperCase(),
      path,
      takes: o.requestBody ? shapeOf(document, o.requestBody) : null,
      answers: shapeOf(document, o.responses['2XX'])!,
    })),
  );
}
