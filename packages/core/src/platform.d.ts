/**
 * What every JavaScript engine that Yarlop runs in brings beside the language itself. The core is compiled without the
 * DOM's and Node's types, so that nothing of either can be used in it; these few are in both.
 */
declare function atob(base64: string): string;

declare namespace WebAssembly {
  interface Memory {
    readonly buffer: ArrayBuffer;
    /** @param pages of 64 KiB to add */
    grow(pages: number): number;
  }
  class Module {
    constructor(bytes: Uint8Array);
  }
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
}
