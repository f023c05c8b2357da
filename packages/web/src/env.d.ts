declare module '*.vue' {
  import type { DefineComponent } from 'vue';
  const component: DefineComponent<object, object, unknown>;
  export default component;
}
declare module 'splitpanes' {
  import type { DefineComponent } from 'vue';
  export const Splitpanes: DefineComponent;
  export const Pane: DefineComponent;
}
declare module 'smpte-timecode' {
  interface Timecode {
    add(frames: number): Timecode;
    toString(): string;
  }
  export default function Timecode(at: number | string, rate: number, dropFrame?: boolean): Timecode;
}
