import { describe, expect, it } from 'vitest';
import { effectScope, shallowRef, watchEffect } from 'vue';
import { COMMANDS, GESTURES, sentenceOf } from '../src/commands/catalogue';
import { isReady, perform, provideCommand } from '../src/commands/use-commands';

/** Offers a command in a scope of its own, as a part of the page does. */
function offered(id: string, run: () => void, isDone?: () => boolean): () => void {
  const scope = effectScope();
  scope.run(() => provideCommand(id, run, isDone));
  return () => scope.stop();
}

describe('the table of commands', () => {
  it('names each command and gives each key once', () => {
    for (const part of ['id', 'title', 'keys', 'binding'] as const) {
      const all = COMMANDS.map((c) => c[part]).filter((v) => v !== null);
      expect(new Set(all).size, part).toBe(all.length);
    }
    const keys = COMMANDS.filter((c) => c.binding !== null).map((c) => c.keys);
    expect(GESTURES.filter(([k]) => keys.includes(k))).toEqual([]);
  });
  it('tells a button its sentence and its key', () => {
    expect(sentenceOf('follow-both')).toBe('Backwards and forwards at once (F)');
    expect(sentenceOf('undo')).toBe('Undo (Ctrl+Z)');
    expect(() => sentenceOf('dance')).toThrow('There is no command "dance".');
  });
});

describe('a command', () => {
  it('that two parts offer is done by the one that came last, and by the other again when that one goes', () => {
    const done: string[] = [];
    const bench = offered('snap-glass', () => done.push('bench'));
    const hint = offered('snap-glass', () => done.push('hint'));
    perform('snap-glass');
    hint();
    perform('snap-glass');
    bench();
    perform('snap-glass');
    expect(done).toEqual(['hint', 'bench']);
    expect(isReady('snap-glass')).toBe(false);
  });
  it('is done while somebody offers it', () => {
    let done = 0;
    expect(isReady('ruling')).toBe(false);
    perform('ruling');
    const end = offered('ruling', () => done++);
    expect(isReady('ruling')).toBe(true);
    perform('ruling');
    end();
    perform('ruling');
    expect([done, isReady('ruling')]).toEqual([1, false]);
  });
  it('is not done where it cannot be now, and those who show it hear when it can', () => {
    let done = 0;
    const can = shallowRef(false);
    const seen: boolean[] = [];
    const end = offered(
      'undo',
      () => done++,
      () => can.value,
    );
    const stop = watchEffect(() => seen.push(isReady('undo')), { flush: 'sync' });
    perform('undo');
    can.value = true;
    perform('undo');
    stop();
    end();
    expect([done, ...seen]).toEqual([1, false, true]);
  });
  it('stays with the part that came last, when an earlier one goes', () => {
    const done: string[] = [];
    const first = offered('lanes', () => done.push('first'));
    const second = offered('lanes', () => done.push('second'));
    first();
    perform('lanes');
    second();
    perform('lanes');
    expect(done).toEqual(['second']);
  });
  it('that is not in the table cannot be offered', () => {
    expect(() => offered('dance', () => {})).toThrow('There is no command "dance".');
  });
});
