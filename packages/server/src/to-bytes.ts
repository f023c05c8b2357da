/** Of a 16-bit code value, one of 8 bit. */
const TO_BYTES = 257;

/**
 * Code values of 16 bit as they are seen, 8 bit. One by one: the arrays' own `from` gathers all values as a list first,
 * which at 8192x4320 is more than a process may hold.
 */
export function toBytes(codes: Uint16Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(codes.length);
  for (let i = 0; i < codes.length; i++) out[i] = Math.round(codes[i]! / TO_BYTES);
  return out;
}
