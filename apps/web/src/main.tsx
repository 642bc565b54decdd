import '@mantine/core/styles.css';
import '@mantine/notifications/styles.css';
import '@fontsource-variable/instrument-sans';
import '@fontsource-variable/spline-sans-mono';
import './tokens.css';
import { localStorageColorSchemeManager, MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import { CheckView } from './check/CheckView.js';
import { ProjectsView } from './projects/ProjectsView.js';
import { RenderView } from './render/RenderView.js';
import { Shell } from './shell/Shell.js';
import { SourcesView } from './sources/SourcesView.js';
import { theme } from './theme.js';
import { TimelinesView } from './timelines/TimelinesView.js';

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

const router = createBrowserRouter([
  { path: '/', element: <ProjectsView /> },
  {
    path: '/p/:project',
    element: <Shell />,
    children: [
      { index: true, element: <Navigate to="sources" replace /> },
      { path: 'sources/:source?', element: <SourcesView /> },
      { path: 'timelines/:timeline?/:clip?', element: <TimelinesView /> },
      { path: 'check/:source?/:picture?', element: <CheckView /> },
      { path: 'render/:job?', element: <RenderView /> },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
]);

const root = document.getElementById('root');
if (!root) throw new Error('the page has no root');
createRoot(root).render(
  <StrictMode>
    <MantineProvider
      theme={theme}
      defaultColorScheme="auto"
      colorSchemeManager={localStorageColorSchemeManager({ key: 'thawline-scheme' })}
    >
      <Notifications position="bottom-right" />
      <QueryClientProvider client={client}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
