#!/usr/bin/env node
import { existsSync } from 'node:fs';
const built = new URL('../dist/yarlop.mjs', import.meta.url);
if (!existsSync(built)) {
  process.stderr.write('yarlop: not built yet; run "npm start" (or "npm run build") once in the repository.\n');
  process.exit(1);
}
await import(built.href);
