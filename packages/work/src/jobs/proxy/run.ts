import { makeProxy } from '../../proxy/proxy.js';

export const run = makeProxy;
