import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

/** Where `npm start` serves: the page with hot reload asks it. */
const SERVER = 'http://127.0.0.1:4747';

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react()],
  // Workspace packages come as sources: one build, one source map.
  resolve: { conditions: ['source', 'module', 'browser', 'default'] },
  build: { outDir: 'dist', emptyOutDir: true, chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
  server: {
    host: '127.0.0.1',
    port: 5173,
    proxy: {
      '/api': {
        target: SERVER,
        changeOrigin: true,
        // The server takes changes from its own address alone.
        configure: (proxy) =>
          proxy.on('proxyReq', (request) => request.getHeader('origin') && request.setHeader('origin', SERVER)),
      },
    },
  },
});
