/** The file's own name at the end of an address or path: "file:///a/floe%20drift.mov" is "floe drift.mov". */
export function lastPart(url: string): string {
  const bare = /^[a-z][a-z0-9+.-]*:\/\//i.test(url) ? (url.split(/[?#]/)[0] ?? url) : url;
  const part =
    bare
      .replace(/[\\/]+$/, '')
      .split(/[\\/]/)
      .pop() ?? '';
  try {
    return decodeURIComponent(part);
  } catch {
    return part;
  }
}
