/** What is kept of passwords, and which addresses of the list a stranger may ask for. */
import { argon2Verify, argon2id } from 'hash-wasm';
import { describe, expect, it } from 'vitest';
import { accessOf } from '../../contracts/src/routes';
import { readConfig } from '../src/config';
import { hashPassword, isPassword } from '../src/use-cases/passwords';

const GOOD = 'barnacle-lantern-9';
const OTHER = 'slack-water-at-ten';

describe('passwords', () => {
  it('are hashed as another implementation of RFC 9106 does it (hash-wasm): each verifies what the other made', async () => {
    expect(await argon2Verify({ password: GOOD, hash: await hashPassword(GOOD) })).toBe(true);
    const salt = new TextEncoder().encode('a salt of 16 by.');
    const cost = { memorySize: 19_456, iterations: 2, parallelism: 1, hashLength: 32 };
    const theirs = await argon2id({ password: GOOD, salt, ...cost, outputType: 'encoded' });
    expect(await isPassword(theirs, GOOD)).toBe(true);
    expect(await isPassword(theirs, OTHER)).toBe(false);
  });
  it('are never equal twice, are told from others, and are the same however an accent is typed', async () => {
    const [one, two] = [await hashPassword('marée basse'), await hashPassword('marée basse')];
    expect(one).not.toBe(two);
    expect(await isPassword(one, 'mare\u0301e basse')).toBe(true);
    expect(await isPassword(one, 'maree basse')).toBe(false);
    expect(await isPassword(null, 'marée basse')).toBe(false);
  });
});

describe('the list of routes', () => {
  it('gives a stranger nothing that is not in it', () => {
    expect(accessOf('GET', '/health')).toBe('anyone');
    expect(accessOf('HEAD', '/health/')).toBe('anyone');
    expect(accessOf('POST', '/health')).toBe('person');
    expect(accessOf('DELETE', '/Bin')).toBe('admin');
    expect(accessOf('GET', '/of/no/kind')).toBe('person');
  });
});

describe('where it listens and what it answers for', () => {
  const need = { YARLOP_DATA: '/srv/quay', YARLOP_DB_PORT: '1', YARLOP_DB_USER: 'u', YARLOP_DB_PASSWORD: 'p' };
  it('is loopback alone without accounts, and anywhere with them', () => {
    expect(() => readConfig({ ...need, YARLOP_HOST: '0.0.0.0' })).toThrow(/without accounts.*--studio/);
    expect(readConfig(need)).toMatchObject({ host: '127.0.0.1', studio: null });
    const open = readConfig({ ...need, YARLOP_HOST: '0.0.0.0', YARLOP_STUDIO: '1', YARLOP_TLS: '1' });
    expect(open).toMatchObject({ host: '0.0.0.0', studio: { isSecure: true } });
  });
  it('has the names that were set, before its own', () => {
    const { names } = readConfig({ ...need, YARLOP_PORT: '4421', YARLOP_NAMES: 'Quay.example, 10.0.0.7:4421,' });
    expect(names).toEqual(['quay.example', '10.0.0.7:4421', 'localhost:4421', '127.0.0.1:4421', '[::1]:4421']);
  });
});
