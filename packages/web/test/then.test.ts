import { describe, expect, it } from 'vitest';
import { pageAfter } from '../src/people/then';

describe('after signing in', () => {
  it('one comes to the page of this server that was asked for', () => {
    expect(pageAfter('/shots/3/prove?frame=7')).toBe('/shots/3/prove?frame=7');
  });
  it.each([
    '//elsewhere.example',
    '/\\elsewhere.example',
    'https://elsewhere.example',
    'javascript:0',
    '',
    undefined,
    ['/a'],
  ])('and to no other place: %s', (asked) => expect(pageAfter(asked)).toBe('/'));
});
