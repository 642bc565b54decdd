#!/usr/bin/env node
import { existsSync } from 'node:fs';

const main = new URL('../bundle/main.js', import.meta.url);
if (existsSync(main)) await import(main.href);
else {
  process.stderr.write('Thawline is not built yet: run "npm run setup" in its folder first.\n');
  process.exitCode = 1;
}
