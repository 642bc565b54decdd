import { stillType } from '@thawline/media';
/** Text in a page. */
export const inPage = (text: string): string =>
  text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] as string);

/** A page to print, whole in itself. */
export function pageOf(title: string, body: string): string {
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${inPage(title)}</title>
<style>
body{font:14px/1.5 "Instrument Sans Variable",system-ui,sans-serif;color:#15272C;background:#FBFCFC;max-width:1000px;margin:28px auto;padding:0 20px}
h1{font-size:22px;margin:0}h2{font-size:15px;margin:26px 0 8px}p{margin:6px 0}.quiet{color:#5B6F73}.look{color:#A8430F;font-weight:600}
dl{display:flex;flex-wrap:wrap;gap:8px 34px;margin:18px 0}dt{color:#5B6F73;font-size:12px}dd{margin:0;font:600 17px "Spline Sans Mono Variable",ui-monospace,monospace}
svg{width:100%;border-bottom:1px solid #15272C}table{border-collapse:collapse;width:100%;font-variant-numeric:tabular-nums}
td,th{text-align:left;padding:3px 12px 3px 0;border-bottom:1px solid #d8e0de}figure{display:inline-block;margin:0 10px 10px 0;font-size:12px}figure img{display:block;width:220px}
@media print{body{margin:0}}
</style></head><body>
${body}
</body></html>
`;
}

/** A picture with words beneath it. */
export function pictureIn(still: Uint8Array, alt: string, words: string): string {
  const data = Buffer.from(still).toString('base64');
  return `<figure><img alt="${inPage(alt)}" src="data:${stillType(still)};base64,${data}"/><figcaption>${inPage(words)}</figcaption></figure>`;
}
