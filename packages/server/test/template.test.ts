/**
 * A shot that is finished on one installation and brought in on another: two servers, each with a database and a folder
 * of its own.
 */
import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import yauzl from 'yauzl';
import yazl from 'yazl';
import { plateBytes, recipe } from './builders/plate';
import { TestServer } from './builders/server';

interface Track {
  readonly outdated: boolean;
  readonly frames: readonly {
    readonly frame: number;
    readonly corners: readonly (readonly number[])[];
    readonly trust: number;
  }[];
}
interface Shot {
  readonly id: number;
  readonly name: string;
  readonly rangeFrom: number;
  readonly rangeTo: number;
  readonly mediaState: string;
  readonly screens: readonly { readonly id: number; readonly recipe: Record<string, unknown> }[];
}

/** Files of a zip by name. */
function unzip(bytes: Buffer): Promise<Map<string, Buffer>> {
  return new Promise((resolve, reject) =>
    yauzl.fromBuffer(bytes, { lazyEntries: true }, (e, zip) => {
      if (e) return reject(e);
      const out = new Map<string, Buffer>();
      zip
        .on('end', () => resolve(out))
        .on('entry', (entry: yauzl.Entry) =>
          zip.openReadStream(entry, (x, stream) => {
            if (x) return reject(x);
            const chunks: Buffer[] = [];
            stream
              .on('data', (c: Buffer) => chunks.push(c))
              .on('end', () => {
                out.set(entry.fileName, Buffer.concat(chunks));
                zip.readEntry();
              });
          }),
        );
      zip.readEntry();
    }),
  );
}
/** Changes the template, with a manifest that vouches for what it says now. */
function lying(files: Map<string, Buffer>, change: (template: Lie) => void): void {
  const template = JSON.parse(files.get('template.json')!.toString()) as Lie;
  change(template);
  files.set('template.json', Buffer.from(JSON.stringify(template)));
  const manifest = JSON.parse(files.get('manifest.json')!.toString()) as { files: object[] };
  const vouched = [...files]
    .filter(([path]) => path !== 'manifest.json')
    .map(([path, body]) => ({
      path,
      what: '',
      bytes: body.length,
      sha256: createHash('sha256').update(body).digest('hex'),
    }));
  files.set('manifest.json', Buffer.from(JSON.stringify({ ...manifest, files: vouched })));
}
interface Lie {
  plate: string;
  media: { hash: string; name: string; files: string[]; firstNumber: number | null }[];
  tables: { hash: string; name: string; body: string }[];
  screens: { solve: Record<string, unknown> }[];
}
async function zipped(files: ReadonlyMap<string, Buffer>, folder: string): Promise<Buffer> {
  const zip = new yazl.ZipFile();
  const path = join(folder, `${Math.random()}.zip`);
  const chunks: Buffer[] = [];
  for (const [name, body] of files) zip.addBuffer(body, name);
  zip.end();
  for await (const c of zip.outputStream as AsyncIterable<Buffer>) chunks.push(c);
  await writeFile(path, Buffer.concat(chunks));
  return readFile(path);
}

describe('a template', () => {
  let home: TestServer;
  let away: TestServer;
  let folder: string;
  let template: Buffer;
  let first: Track;
  let production: number;
  const take = async (
    server: TestServer,
    bytes: Buffer,
  ): Promise<{ status: number; body: Shot & { message?: string } }> =>
    server.request('POST', `/productions/${production}/templates`, { upload: (await server.upload(bytes)).id });

  beforeAll(async () => {
    [home, away, folder] = [
      await TestServer.create(),
      await TestServer.create(),
      await mkdtemp(join(tmpdir(), 'yarlop-template-')),
    ];
    const { shot } = await home.shot(await plateBytes(24));
    const { id } = await home.upload(
      await sharp({ create: { width: 60, height: 40, channels: 3, background: { r: 20, g: 120, b: 220 } } })
        .png()
        .toBuffer(),
    );
    const fill = (await home.request<{ hash: string }>('POST', '/media', { upload: id, fileName: 'blue.png' })).body
      .hash;
    await home.until(
      async () => (await home.request<{ state: string }>('GET', `/media/${fill}`)).body.state === 'ready',
    );
    const screen = (
      await home.request<{ id: number }>('POST', `/shots/${shot}/screens`, {
        ...recipe,
        fill: { media: fill },
        dress: { softness: { more: 1.5 } },
        sections: [{ from: 14, to: 20, motion: 'affine' }],
      })
    ).body;
    const job = await home.request<{ id: number }>('POST', `/screens/${screen.id}/follow`, { from: 2, to: 20 });
    await home.until(async () =>
      (await home.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find(
        (j) => j.id === job.body.id && j.state === 'done',
      ),
    );
    first = (await home.request<Track>('GET', `/screens/${screen.id}/track`)).body;
    const delivery = (await home.request<{ id: number }>('POST', `/shots/${shot}/deliveries`, { as: 'template' })).body;
    await home.until(async () =>
      (await home.request<{ id: number; sha256: string | null }[]>('GET', `/shots/${shot}/deliveries`)).body.find(
        (d) => d.id === delivery.id && d.sha256,
      ),
    );
    template = Buffer.from(await (await fetch(`${home.url}/api/deliveries/${delivery.id}/file`)).arrayBuffer());
    production = (await away.request<{ id: number }>('POST', '/productions', { name: 'Elsewhere' })).body.id;
  }, 120_000);
  afterAll(async () => {
    await home.dispose();
    await away.dispose();
    await rm(folder, { recursive: true, force: true });
  });

  it('holds the plate, the fill, the track for others, and explains itself', async () => {
    const files = await unzip(template);
    const names = [...files.keys()];
    expect(names).toEqual(
      expect.arrayContaining(['manifest.json', 'README.txt', 'template.json', 'track/track.json', 'track/track.csv']),
    );
    expect(names.filter((n) => n.startsWith('originals/'))).toHaveLength(2);
    expect(files.get('README.txt')!.toString()).toMatch(/blue\.png/);
  });
  it('becomes a shot on another installation, with the same corners, dressed and delivered there', async () => {
    const { status, body } = await take(away, template);
    expect(status).toBe(201);
    await away.until(async () => (await away.request<Shot>('GET', `/shots/${body.id}`)).body.mediaState === 'ready');
    const shot = (await away.request<Shot>('GET', `/shots/${body.id}`)).body;
    const [screen] = shot.screens;
    const track = (await away.request<Track>('GET', `/screens/${screen!.id}/track`)).body;
    expect(shot.screens).toHaveLength(1);
    expect(screen!.recipe).toMatchObject({ dress: { softness: { more: 1.5 } } });
    expect(track.outdated).toBe(false);
    expect(track.frames).toEqual(first.frames);
    await away.until(async () =>
      (await away.request<{ state: string }[]>('GET', '/media')).body.every((m) => m.state === 'ready'),
    );
    const delivery = (
      await away.request<{ id: number }>('POST', `/shots/${shot.id}/deliveries`, { as: 'mkv', from: 4, to: 6 })
    ).body;
    await away.until(
      async () =>
        (await away.request<{ id: number; sha256: string | null }[]>('GET', `/shots/${shot.id}/deliveries`)).body.find(
          (d) => d.id === delivery.id && d.sha256,
        ),
      30_000,
    );
    // Brought in once more it is another shot of the same plate.
    const again = await take(away, template);
    expect(again.status).toBe(201);
    expect(again.body.id).not.toBe(shot.id);
  });
  it.each<[string, (files: Map<string, Buffer>) => void, RegExp]>([
    ['no template', (f) => [...f.keys()].filter((n) => n !== 'manifest.json').forEach((n) => f.delete(n)), /lacks "/],
    [
      'a changed template',
      (f) =>
        f.set('template.json', Buffer.from(f.get('template.json')!.toString().replace('"version":1', '"version":1 '))),
      /was changed after it was made/,
    ],
    ['a package without a manifest', (f) => f.delete('manifest.json'), /manifest\.json/],
    [
      'a sequence whose bytes are not those of its name',
      (f) => {
        const hash = 'f'.repeat(64);
        const [picture] = [...f].find(([n]) => n.startsWith('originals/'))!;
        const names = ['00000001.png', '00000002.png'];
        for (const name of names) f.set(`originals/${hash}/${name}`, f.get(picture)!);
        lying(f, (t) => {
          t.plate = hash;
          t.media.unshift({ hash, name: 'other', files: names, firstNumber: 1 });
        });
      },
      /its checksum differs/,
    ],
    [
      'a colour table whose text is not that of its name',
      (f) =>
        lying(f, (t) => t.tables.push({ hash: 'e'.repeat(64), name: 'grade', body: 'LUT_1D_SIZE 2\n0 0 0\n1 1 1' })),
      /is not what its name says/,
    ],
    [
      'a memory that is none',
      (f) =>
        lying(f, (t) => {
          t.screens[0]!.solve['forwards'] = { frame: 5, state: { shutter: 'open' } };
        }),
      /forwards/,
    ],
  ])('is refused: %s; nothing is made', async (_, change, message) => {
    const files = await unzip(template);
    change(files);
    const before = (await away.request<{ shots: unknown[] }>('GET', `/productions/${production}`)).body.shots.length;
    const { status, body } = await take(away, await zipped(files, folder));
    expect(status).toBe(422);
    expect(body.message).toMatch(message);
    expect((await away.request<{ shots: unknown[] }>('GET', `/productions/${production}`)).body.shots).toHaveLength(
      before,
    );
  });
});
