import { mkdir, mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { decodeRgb } from '../src/decode';
import { Encoder, numbered } from '../src/encode';
import { LUMA, MEZZANINE, PROXY, extractLuma, ingest, readProxyIndex } from '../src/ingest';
import { LumaFile } from '../src/luma-file';
import type { Probe } from '../src/probe';
import { probe } from '../src/probe';
import { openSource } from '../src/source';
import { drawFrame, ffmpeg, makeClip, readCode } from './builders/clips';

let folder: string;
const at = (name: string): string => join(folder, name);
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'yarlop-media-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

async function codes(path: string, p?: Probe, options = {}): Promise<number[]> {
  const source = await openSource(path);
  const out: number[] = [];
  for await (const r of decodeRgb(source, p ?? (await probe(source)), options)) out.push(readCode(r));
  await source.dispose();
  return out;
}
async function probed(path: string): Promise<Probe> {
  const source = await openSource(path);
  try {
    return await probe(source);
  } finally {
    await source.dispose();
  }
}
const numbers = (n: number, from = 0): number[] => Array.from({ length: n }, (_, i) => i + from);
const H264 = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-preset', 'fast', '-bf', '3', '-g', '12'];

describe('a channel mix', () => {
  it.each([
    ['8 bit', H264, 1],
    ['10 bit', ['-c:v', 'prores_ks', '-profile:v', '3'], 2],
  ] as const)('of %s pictures is what the decoded colours say, and stills come with it', async (_, args, bytes) => {
    const name = `mix-${bytes}.mov`;
    const mix = [0.5, 0.2, 0.3] as const;
    await makeClip({ rate: '24', args: [...args, at(name)] });
    const p = await probed(at(name));
    const source = await openSource(at(name));
    const still = at(`${name}.still`);
    const most = bytes === 2 ? 65535 : 255;
    expect(
      await extractLuma(source, p, at(`${name}.raw`), () => false, { mix, stills: [{ frame: 7, path: still }] }),
    ).toBe(30);
    const luma = await LumaFile.open(at(`${name}.raw`), p.width, p.height, p.bitDepth);
    const grey = (await luma.read(7)).data;
    await luma.close();
    for await (const { data } of decodeRgb(source, p, { from: 7, count: 1 })) {
      let worst = 0;
      for (let i = 0; i < grey.length; i++)
        worst = Math.max(
          worst,
          Math.abs(grey[i]! - (0.5 * data[3 * i]! + 0.2 * data[3 * i + 1]! + 0.3 * data[3 * i + 2]!)) / most,
        );
      expect(worst).toBeLessThan(2.5 / 255);
      expect(Buffer.compare(await readFile(still), Buffer.from(data.buffer, data.byteOffset, data.byteLength))).toBe(0);
    }
    await source.dispose();
  });
});

describe('frame N is frame N', () => {
  it.each([
    ['H.264 with B-frames', 'b.mp4', '24', H264, [24, 1]],
    ['23.976', 'ntsc.mov', '24000/1001', H264, [24000, 1001]],
    ['ProRes, 10 bit', 'p.mov', '25', ['-c:v', 'prores_ks', '-profile:v', '3'], [25, 1]],
    ['VP9', 'v.webm', '30', ['-c:v', 'libvpx-vp9', '-b:v', '0', '-crf', '30', '-cpu-used', '8'], [30, 1]],
  ] as const)(
    'in %s, from the file and from the mezzanine, luma and proxies',
    async (_, name, rate, args, expectedRate) => {
      await makeClip({ rate, args: [...args, at(name)] });
      const p = await probed(at(name));
      const source = await openSource(at(name));
      expect(p).toMatchObject({ width: 320, height: 192, frameCount: 30, frameRate: expectedRate });
      expect(await codes(at(name))).toEqual(numbers(30));
      const out = at(`${name}-ingest`);
      const seen: number[] = [];
      await mkdir(out);
      expect(
        (
          await ingest(
            source,
            p,
            out,
            (n) => seen.push(n),
            () => false,
          )
        ).frameCount,
      ).toBe(30);
      expect((await readdir(out)).filter((f) => f.endsWith('.part'))).toEqual([]);
      for (const from of [0, 1, 13, 29])
        expect(await codes(join(out, MEZZANINE), p, { from, count: 1, seekable: true })).toEqual([from]);
      const luma = await LumaFile.open(join(out, LUMA), 320, 192, p.bitDepth);
      const index = await readProxyIndex(out);
      expect(luma.frameCount).toBe(30);
      for (const n of [0, 17, 29]) {
        const l = await luma.read(n);
        expect(
          readCode({
            width: 320,
            height: 192,
            channels: 3,
            data: Uint8Array.from(
              { length: 320 * 192 * 3 },
              (_v, i) => l.data[Math.floor(i / 3)]! / (p.bitDepth > 8 ? 257 : 1),
            ),
          }),
        ).toBe(n);
      }
      await luma.close();
      expect(index.offsets).toHaveLength(31);
      const packed = await readFile(join(out, PROXY));
      for (const n of [0, 11, 29]) {
        await writeFile(join(out, 'one.jpg'), packed.subarray(index.offsets[n], index.offsets[n + 1]));
        expect(await codes(join(out, 'one.jpg'))).toEqual([n]);
      }
    },
  );

  it('in the mezzanine is the plate bit for bit', async () => {
    await makeClip({ frames: 4, args: [...H264, at('bits.mp4')] });
    const source = await openSource(at('bits.mp4'));
    const p = await probe(source);
    const out = at('bits');
    await mkdir(out);
    await ingest(
      source,
      p,
      out,
      () => {},
      () => false,
    );
    const pictures = async (path: string): Promise<Buffer[]> => {
      const list: Buffer[] = [];
      for await (const r of decodeRgb(await openSource(path), p)) list.push(Buffer.from(r.data as Uint8Array));
      return list;
    };
    expect(await pictures(join(out, MEZZANINE))).toEqual(await pictures(at('bits.mp4')));
  });

  it('in a clip of variable rate, which is conformed and says so', async () => {
    await makeClip({
      frames: 24,
      args: [
        '-vf',
        "setpts='if(lt(N,8),N,if(lt(N,16),8+(N-8)*2.5,28+(N-16)))/24/TB'",
        '-vsync',
        'vfr',
        '-video_track_timescale',
        '24000',
        ...H264,
        at('vfr.mp4'),
      ],
    });
    const p = await probed(at('vfr.mp4'));
    expect(p.notes.join()).toMatch(/Variable frame rate: conformed to 24\.000/);
    expect(await codes(at('vfr.mp4'))).toEqual(numbers(24));
  });

  it('in a clip cut by an edit list, whose hidden pictures do not count', async () => {
    await makeClip({ frames: 48, args: [...H264, at('long.mp4')] });
    await ffmpeg(['-ss', '0.75', '-i', at('long.mp4'), '-c', 'copy', at('cut.mp4')]);
    const got = await codes(at('cut.mp4'));
    expect((await probed(at('cut.mp4'))).frameCount).toBe(got.length);
    expect(got).toEqual(numbers(got.length, got[0]!));
  });

  it('in a sequence that starts at 1001, whose first number is kept as a label', async () => {
    await mkdir(at('seq'));
    await makeClip({
      frames: 6,
      args: ['-start_number', '1001', at('seq/quay 100%.%04d.png').replace('100%.', '100%%.')],
    });
    const p = await probed(at('seq'));
    expect(p).toMatchObject({ frameCount: 6, firstFrame: 1001 });
    expect(await codes(at('seq'))).toEqual(numbers(6));
    expect(await codes(at('seq/quay 100%.%04d.png').replace('100%.', '100%.'))).toEqual(numbers(6));
  });
});

describe('what a plate is', () => {
  it('reports repeated frames', async () => {
    await makeClip({ frames: 12, code: (n) => n - (n % 3 === 2 ? 1 : 0), args: ['-c:v', 'ffv1', at('twice.mkv')] });
    const source = await openSource(at('twice.mkv'));
    const p = await probe(source);
    await mkdir(at('twice'));
    expect(
      (
        await ingest(
          source,
          p,
          at('twice'),
          () => {},
          () => false,
        )
      ).notes.join(),
    ).toMatch(/4 repeated frames/);
  });
  it('reports interlace, pixel aspect, rotation, timecode and colour tags', async () => {
    await makeClip({
      frames: 4,
      args: [
        '-vf',
        'setfield=tff,setsar=16/15',
        '-c:v',
        'libx264',
        '-flags',
        '+ilme+ildct',
        '-x264opts',
        'tff=1',
        '-timecode',
        '01:00:10:05',
        '-color_trc',
        'bt709',
        '-color_primaries',
        'bt709',
        '-colorspace',
        'bt709',
        '-pix_fmt',
        'yuv420p',
        at('tags.mov'),
      ],
    });
    const p = await probed(at('tags.mov'));
    expect(p).toMatchObject({
      timecode: '01:00:10:05',
      pixelAspect: [16, 15],
      colour: { transfer: 'bt709', primaries: 'bt709', matrix: 'bt709', range: 'limited' },
    });
    expect(p.notes.join()).toMatch(/not square \(16:15\)/);
    expect(p.notes.join()).toMatch(/Interlaced/);
    await ffmpeg(['-i', at('tags.mov'), '-c', 'copy', '-metadata:s:v', 'rotate=90', at('turned.mov')]);
    const turned = await probed(at('turned.mov'));
    expect(turned).toMatchObject({ width: 192, height: 320 });
    expect(turned.notes.join()).toMatch(/Rotation tag/);
  });
});

describe('bad input is refused with what, where and the mend', () => {
  async function written(name: string, text: string): Promise<string> {
    await writeFile(at(name), text);
    return at(name);
  }
  it.each<[string, () => Promise<string>, RegExp]>([
    ['an empty file', () => written('empty.mp4', ''), /empty\.mp4 is empty \(0 bytes\); copy/],
    ['text renamed .mp4', () => written('text.mp4', 'this is no film\n'.repeat(50)), /text\.mp4" holds no pictures/],
    [
      'a truncated MP4',
      async () => {
        await makeClip({ args: [...H264, at('whole.mp4')] });
        await writeFile(at('half.mp4'), (await readFile(at('whole.mp4'))).subarray(0, 9000));
        return at('half.mp4');
      },
      /half\.mp4" (is cut off|holds no pictures)/,
    ],
    [
      'sound only',
      async () => {
        await ffmpeg(['-f', 'lavfi', '-i', 'sine=d=0.5', at('tone.wav')]);
        await ffmpeg(['-i', at('tone.wav'), at('tone.mp4')]);
        return at('tone.mp4');
      },
      /sound but no picture/,
    ],
    [
      'a playlist named .mp4',
      () =>
        written('list.mp4', '#EXTM3U\n#EXT-X-TARGETDURATION:10\n#EXTINF:10,\nfile:///etc/hostname\n#EXT-X-ENDLIST\n'),
      /list\.mp4"/,
    ],
    [
      'a concat list named .mov',
      () => written('concat.mov', "ffconcat version 1.0\nfile '/etc/hostname'\n"),
      /concat\.mov"/,
    ],
    ['ffmetadata', () => written('meta.mkv', ';FFMETADATA1\ntitle=x\n'), /meta\.mkv"/],
    [
      'a picture of 1x1',
      async () => {
        await makeClip({ frames: 1, width: 1, height: 1, args: [at('one.png')] });
        return at('one.png');
      },
      /1x1 px; a plate needs/,
    ],
    [
      'a picture of 20000x20000',
      async () => {
        const head = Buffer.from('89504e470d0a1a0a0000000d494844520000000000000000080200000000000000', 'hex');
        head.writeUInt32BE(20000, 16);
        head.writeUInt32BE(20000, 20);
        await writeFile(at('huge.png'), head);
        return at('huge.png');
      },
      /huge\.png"/,
    ],
    ['a missing file', async () => at('nowhere.mp4'), /does not exist/],
  ])('%s', async (_, make, message) => {
    const path = await make();
    const error = await probed(path).then(
      () => null,
      (e: Error) => e,
    );
    expect(error?.message).toMatch(message);
    expect(error?.message).not.toContain('/etc');
  });
  it('a sequence with a gap, with mixed sizes, with doubled numbers', async () => {
    await mkdir(at('gap'));
    await makeClip({ frames: 5, width: 64, height: 64, args: [at('gap/p.%04d.png')] });
    await rm(at('gap/p.0003.png'));
    await expect(probed(at('gap'))).rejects.toThrow(/gap: frame 3 is missing/);
    await makeClip({ frames: 1, width: 96, height: 64, args: ['-start_number', '3', at('gap/p.%04d.png')] });
    // What a sequence is, its first picture tells at once; whether the others are of its size is asked when it is read in.
    const mixed = await openSource(at('gap'));
    const said = ingest(
      mixed,
      await probe(mixed),
      at('gap'),
      () => {},
      () => false,
    );
    await expect(said.finally(() => mixed.dispose())).rejects.toThrow(
      /mixed sizes: p\.0001\.png is 64x64, p\.0003\.png is 96x64/,
    );
    await makeClip({ frames: 1, width: 64, height: 64, args: ['-start_number', '3', at('gap/p.%05d.png')] });
    await expect(probed(at('gap'))).rejects.toThrow(/Number 3 stands twice/);
  });
  it('a clip of one frame is a plate', async () => {
    await makeClip({ frames: 1, args: [...H264, at('single.mp4')] });
    expect((await probed(at('single.mp4'))).frameCount).toBe(1);
  });
  it('a cancelled ingest leaves nothing', async () => {
    await makeClip({ frames: 40, args: [...H264, at('stop.mp4')] });
    const source = await openSource(at('stop.mp4'));
    const p = await probe(source);
    await mkdir(at('stop'));
    await expect(
      ingest(
        source,
        p,
        at('stop'),
        () => {},
        () => true,
      ),
    ).rejects.toThrow(/Cancelled/);
    expect(await readdir(at('stop'))).toEqual([]);
  });
});

describe('writing pictures', () => {
  const options = {
    width: 64,
    height: 48,
    frameRate: [24, 1] as const,
    firstNumber: 1001,
    depth: 8 as const,
    alpha: false,
  };
  it('a PNG sequence is exact and numbered from the first label', async () => {
    const e = await Encoder.open(at('out/f.%04d.png'), options);
    const data = drawFrame(3, 64, 48);
    for (let i = 0; i < 3; i++) await e.write({ width: 64, height: 48, channels: 3, data });
    const files = await e.close();
    expect(files.map((f) => f.split('/').at(-1))).toEqual(['f.1001.png', 'f.1002.png', 'f.1003.png']);
    const source = await openSource(at('out'));
    for await (const r of decodeRgb(source, await probe(source)))
      expect(Buffer.from(r.data as Uint8Array).equals(data)).toBe(true);
  });
  it('an abandoned one leaves no half file', async () => {
    const e = await Encoder.open(at('gone/f.mp4'), options);
    await e.write({ width: 64, height: 48, channels: 3, data: drawFrame(0, 64, 48) });
    await e.abort();
    expect(await readdir(at('gone'))).toEqual([]);
  });
  it('an unknown type is refused before anything is written', async () => {
    await expect(Encoder.open(at('never/f.doc'), options)).rejects.toThrow(/does not end in a type/);
    await expect(Encoder.open(at('never/f.png'), options)).rejects.toThrow(/give a pattern/);
    expect(numbered('a.%04d.png', 7)).toBe('a.0007.png');
  });
});
