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
import { createBrowserRouter, Navigate } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { ProjectsView } from '../features/projects/ui/ProjectsView.js';
import { SourcesView } from '../features/sources/ui/SourcesView.js';
import { followHeading } from '../shared/state/places.js';
import { Shell } from './shell/Shell.js';
import { theme } from './theme.js';

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

/** Views that are rarely opened first are loaded on demand, which shortens the first paint. */
const views = {
  timelines: async () => ({ Component: (await import('../features/timelines/ui/TimelinesView.js')).TimelinesView }),
  retime: async () => ({ Component: (await import('../features/retime/ui/RetimeView.js')).RetimeView }),
  align: async () => ({ Component: (await import('../features/align/ui/AlignView.js')).AlignView }),
  fields: async () => ({ Component: (await import('../features/fields/ui/FieldsView.js')).FieldsView }),
  check: async () => ({ Component: (await import('../features/check/ui/CheckView.js')).CheckView }),
  compare: async () => ({ Component: (await import('../features/check/ui/CompareView.js')).CompareView }),
  timelineCheck: async () => ({ Component: (await import('../features/check/ui/TimelineCheckView.js')).TimelineCheckView }),
  render: async () => ({ Component: (await import('../features/render/ui/RenderView.js')).RenderView }),
};

const router = createBrowserRouter([
  { path: '/', element: <ProjectsView /> },
  { path: '/storage', lazy: async () => ({ Component: (await import('../features/projects/ui/StorageView.js')).StorageView }) },
  {
    path: '/p/:project',
    element: <Shell />,
    // What is shown while a view's script comes: the frame is there already.
    hydrateFallbackElement: <></>,
    children: [
      { index: true, element: <Navigate to="sources" replace /> },
      { path: 'sources/:source?', element: <SourcesView /> },
      { path: 'sources/:source/fields/:frame?', lazy: views.fields },
      { path: 'timelines/:timeline?/:clip?', lazy: views.timelines },
      { path: 'retime/:timeline?/:clip?/:frame?', lazy: views.retime },
      { path: 'align/:a?/:b?/:tie?', lazy: views.align },
      { path: 'check/compare/:job/:picture?', lazy: views.compare },
      { path: 'check/timeline/:timeline/:frame?', lazy: views.timelineCheck },
      { path: 'check/:source?/:picture?', lazy: views.check },
      { path: 'render/:job?', lazy: views.render },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
]);

followHeading(router);

// Fetched once the first view stands, so that going to another one waits for nothing.
window.addEventListener('load', () =>
  setTimeout(() => {
    // A server that is away just now is asked again when the view is gone to.
    for (const view of Object.values(views)) view().catch(() => undefined);
  }, 2000),
);

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
