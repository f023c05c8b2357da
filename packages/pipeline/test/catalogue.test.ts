/** The catalogue of formats: what the requests, the command line and the menus are made from says the same everywhere. */
import { describe, expect, it } from 'vitest';
import { FORMATS, can, formatOf, idsOf, isOf } from '@yarlop/contracts/formats';
import { checkRequest } from '@yarlop/contracts/validate';
import { DATA_FORMATS } from '../src/deliver-job';
import { IMPORT_FORMATS } from '../src/track-file';

const takes = (request: Parameters<typeof checkRequest>[0], body: unknown): boolean => {
  try {
    checkRequest(request, body);
    return true;
  } catch {
    return false;
  }
};

describe('the catalogue of formats', () => {
  it('names each format once, tells what it is for, and how a delivery of it is called', () => {
    expect(new Set(FORMATS.map((f) => f.id)).size).toBe(FORMATS.length);
    for (const f of FORMATS) {
      expect([f.name, f.what, f.group].map((t) => t.length > 0)).toEqual([true, true, true]);
      expect(f.ending).toMatch(/^[a-z-]+(\.[a-z0-9]+)?$|^mp4$/);
    }
    // Two that are called alike could not lie side by side in one folder.
    const ofData = FORMATS.filter((f) => isOf(f.id, 'text', 'maps')).map((f) => f.ending);
    expect(ofData.filter((e, i) => ofData.indexOf(e) !== i)).toEqual([]);
  });
  it('is what requests take: everything that is delivered, every part of a package, everything that is read', () => {
    for (const { id } of FORMATS) {
      expect([id, takes('deliver', { as: id })]).toEqual([id, !isOf(id, 'plate')]);
      const isPart = isOf(id, 'text', 'maps');
      expect([id, takes('deliver', { as: 'package', parts: [id] })]).toEqual([id, isPart]);
      expect([id, takes('importTrack', { as: id, text: 'x' })]).toEqual([id, can(id, 'read') || id === 'table']);
    }
    expect(takes('deliver', { as: 'film' })).toBe(false);
    expect(() => formatOf('film')).toThrow(/"film" is no format/);
  });
  it('is what the command line takes', () => {
    expect(DATA_FORMATS).toEqual([...idsOf('text'), ...idsOf('maps'), ...idsOf('plate'), 'package']);
    expect(IMPORT_FORMATS).toEqual(['csv', 'tsv', 'json', 'homography-csv', 'homography-json', 'opencv-yaml', 'stmap']);
  });
});
