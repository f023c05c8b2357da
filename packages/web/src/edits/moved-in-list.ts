/** A list with one of its things a place earlier or later; the list itself where there is no such place. */
export function movedInList<T>(list: readonly T[], i: number, by: 1 | -1): readonly T[] {
  const to = i + by;
  if (to < 0 || to >= list.length) return list;
  return list.toSpliced(i, 1).toSpliced(to, 0, list[i]!);
}
