/** What takes up the disk, as the server measured it; bytes. */
export interface DiskUse {
  readonly free: number;
  readonly warnBelow: number;
  readonly productions: readonly {
    readonly id: number;
    readonly name: string;
    /** as they were brought in */
    readonly originals: number;
    /** made of them for work */
    readonly working: number;
    readonly deliveries: number;
  }[];
  readonly unused: readonly { readonly hash: string; readonly name: string; readonly bytes: number }[];
  readonly bin: number;
}

/** Whether so little is left that the person should know. */
export function isShort({ free, warnBelow }: Pick<DiskUse, 'free' | 'warnBelow'>): boolean {
  return free < warnBelow;
}
