/**
 * Compiles packages/kernels/assembly to one WASM file and writes it as text into packages/kernels/src/generated.ts, so that
 * Node, Jest and browser workers load it in the same way. The file is not kept in git: the compiler makes the same one anywhere.
 */
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import asc from 'assemblyscript/asc';

const room = fileURLToPath(new URL('../packages/kernels', import.meta.url));
const wasm = join(room, 'dist', 'kernels.wasm');
const options = ['-O3', '--noAssert', '--runtime', 'stub', '--enable', 'simd', '--importMemory', '--outFile', wasm];
const { error, stderr } = await asc.main([join(room, 'assembly', 'index.ts'), ...options]);
if (error) {
  process.stderr.write(`${stderr.toString()}\n${error.message}\n`);
  process.exit(1);
}
const text = `/** Made by scripts/kernels.mjs from assembly/. */\nexport const KERNELS =\n  '${readFileSync(wasm).toString('base64')}';\n`;
writeFileSync(join(room, 'src', 'generated.ts'), text);
rmSync(wasm);
