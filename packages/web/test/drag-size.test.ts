import { describe, expect, it } from 'vitest';
import { DragSize } from '../src/shared/drag-size';

function drag(size: DragSize, count: number, ms: number): void {
  for (let i = 0; i < count; i++) size.made(ms);
}

describe('pictures of a drag', () => {
  it('are as large as usual where 25 a second can be made', () => {
    const size = new DragSize();
    drag(size, 50, 35);
    expect(size.share).toBe(1);
  });
  it('become smaller where they cannot, and no smaller than the least', () => {
    const size = new DragSize();
    drag(size, 4, 60);
    expect(size.share).toBe(1);
    drag(size, 1, 60);
    expect(size.share).toBe(0.75);
    drag(size, 40, 60);
    expect(size.share).toBe(0.55);
  });
  it('become larger again where there is time to spare, and stay where there is just enough', () => {
    const size = new DragSize();
    drag(size, 10, 60);
    drag(size, 20, 30);
    expect(size.share).toBe(0.55);
    drag(size, 5, 12);
    expect(size.share).toBe(0.75);
    drag(size, 5, 12);
    expect(size.share).toBe(1);
  });
  it('may each take longer where two threads make them', () => {
    const size = new DragSize(2);
    drag(size, 50, 50);
    expect(size.share).toBe(1);
    drag(size, 5, 60);
    expect(size.share).toBe(0.75);
  });
  it('are not made smaller for one that was held up', () => {
    const size = new DragSize();
    for (let i = 0; i < 10; i++) drag(size, 1, i === 3 ? 120 : 12);
    expect(size.share).toBe(1);
  });
});
