import { readFileSync, writeFileSync } from 'node:fs';

/**
 * Puts a table into a document, between the comments `<!-- name -->` and `<!-- /name -->`.
 * @param path of the document, from the project's root
 */
export function writeTable(path, name, lines) {
  const [open, close] = [`<!-- ${name} -->\n`, `<!-- /${name} -->`];
  const text = readFileSync(path, 'utf8');
  const [from, to] = [text.indexOf(open), text.indexOf(close)];
  if (from < 0 || to < from) throw new Error(`${path} has no place for ${name}`);
  writeFileSync(path, `${text.slice(0, from + open.length)}${lines.join('\n')}\n${text.slice(to)}`);
}
