/** Style sheets in tests: of a CSS module the names of the classes that it has, each standing for itself; what it looks like is left out. */
export default {
  process(source) {
    const names = new Set([...source.matchAll(/\.([A-Za-z][\w-]*)/g)].map(([, name]) => name));
    return { code: `export default ${JSON.stringify(Object.fromEntries([...names].map((name) => [name, name])))};` };
  },
};
