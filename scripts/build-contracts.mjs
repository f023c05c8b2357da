/**
 * Makes types and standalone validators from the JSON Schemas; the browser's CSP forbids compiling them at run time.
 */
import { mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Ajv } from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';
import { compile } from 'json-schema-to-typescript';

/** Which formats of the catalogue a place of a schema takes: what `"$formats"` stands for. */
const TAKEN = {
  delivered: (f) => f.kind !== 'plate',
  packaged: (f) => f.packaged !== undefined && f.kind !== 'plate',
  read: (f) => f.kind === 'own' || f.can?.includes('read'),
};

/** A schema with the catalogue's formats in their places. */
function withFormats(schema, catalogue) {
  return JSON.parse(JSON.stringify(schema), (_, value) => {
    const place = value?.$formats;
    return place ? { enum: catalogue.filter(TAKEN[place]).map((f) => f.id) } : value;
  });
}

/** Schemas that routes speak of, for the document that describes them. */
const TOLD = ['answers', 'camera', 'requests', 'screen'];

/** Types that other schemas make, by the schema whose types bring them in. */
const IMPORTS = {
  answers: `import type { CameraFileShape } from './camera';
import type { Requests } from './requests';
import type { ScreenFile } from './screen';
`,
  requests: `import type { ScreenFile } from './screen';
`,
  jobs: `import type { Requests } from './requests';
import type { ScreenFile } from './screen';
`,
};

/** A place that another schema describes, for the maker of types: `tsType` names the type that is made from that one. */
const asNamed = (schema) =>
  JSON.parse(JSON.stringify(schema), (_, value) => (value?.tsType ? { tsType: value.tsType } : value));
/** The same for the validator, which follows the reference. */
const asReferred = (schema) =>
  JSON.parse(JSON.stringify(schema), (_, value) => (value?.tsType ? { $ref: value.$ref } : value));

/** Types say how many of a list there are, as far as types can: the counts are no words that the reference knows. */
const withoutCounts = (text) => text.replace(/^ *\* @(min|max)Items \d+\n/gm, '');

export async function buildContracts(root) {
  const catalogue = JSON.parse(readFileSync(join(root, 'packages/contracts/catalogue/formats.json'), 'utf8'));
  const schemas = join(root, 'packages/contracts/schemas');
  const out = join(root, 'packages/contracts/src/generated');
  mkdirSync(out, { recursive: true });
  const all = Object.fromEntries(
    readdirSync(schemas).map((f) => [
      f.replace('.json', ''),
      withFormats(JSON.parse(readFileSync(join(schemas, f), 'utf8')), catalogue),
    ]),
  );
  writeFileSync(
    join(out, 'formats.ts'),
    `/* Made from the catalogue of formats; do not edit. */\nexport const CATALOGUE = ${JSON.stringify(catalogue)} as const;\n`,
  );
  const told = Object.fromEntries(TOLD.map((name) => [name, all[name]]));
  writeFileSync(
    join(out, 'schemas.ts'),
    `/* Made from the schemas; do not edit. */\nexport const SCHEMAS: Readonly<Record<string, object>> = ${JSON.stringify(told)};\n`,
  );
  for (const [name, schema] of Object.entries(all))
    writeFileSync(
      join(out, `${name}.ts`),
      withoutCounts(
        await compile(asNamed(schema), schema.title, {
          bannerComment: `/* Made from the schema of the same name; do not edit. */\n${IMPORTS[name] ?? ''}`,
        }),
      ),
    );
  const ajv = new Ajv({
    allErrors: false,
    verbose: true,
    strict: true,
    allowUnionTypes: true,
    code: { source: true, esm: true },
  });
  for (const schema of Object.values(all)) ajv.addSchema(asReferred(schema));
  const refs = { screen: 'screen', track: 'track', camera: 'camera', template: 'template' };
  for (const of of ['requests', 'batches'])
    for (const name of Object.keys(all[of].properties)) refs[name] = `${of}#/definitions/${name}`;
  for (const kind of Object.keys(all.jobs.properties)) refs[`${kind}Job`] = `jobs#/definitions/${kind}`;
  writeValidators(ajv, join(out, 'validators'), refs);
  // Of what goes out: only tests check it, so that no program carries it.
  const answers = Object.keys(all.answers.properties).map((name) => [name, `answers#/definitions/${name}`]);
  writeValidators(ajv, join(out, 'answer-validators'), Object.fromEntries(answers), WITH_REQUIRE);
}

/** What is checked at run time goes through the bundler, which knows the library's "require"; tests run as they are. */
const WITH_REQUIRE = `import { createRequire } from 'node:module';\nconst require = createRequire(import.meta.url);\n`;

function writeValidators(ajv, path, refs, head = '') {
  writeFileSync(`${path}.js`, `${head}${standalone.default(ajv, refs)}`);
  // Without them the compiler works its way through half a megabyte of conditions, and its stack does not suffice.
  const types = Object.keys(refs).map((name) => `export declare const ${name}: ValidateFunction;`);
  writeFileSync(`${path}.d.ts`, `import type { ValidateFunction } from 'ajv';\n${types.join('\n')}\n`);
}
