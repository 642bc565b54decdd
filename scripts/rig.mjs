/** Writes the demo's made-up clips and their truths: node scripts/rig.mjs FOLDER [half]. Those that are there stay. */
import { writeDemoClips } from '../packages/rig/dist/index.js';

const [folder = '.cache/rig', size = 'whole'] = process.argv.slice(2);
for (const path of await writeDemoClips(folder, undefined, size)) process.stdout.write(`${path}\n`);
