/** The package brings no types of its own; this much of it is used. */
declare module 'smpte-timecode' {
  interface Timecode {
    add(frames: number): Timecode;
    toString(): string;
  }
  export default function Timecode(at: number | string, rate: number, dropFrame?: boolean): Timecode;
}
