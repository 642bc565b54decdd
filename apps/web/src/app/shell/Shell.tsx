import { Button, Loader, Menu, useComputedColorScheme, useMantineColorScheme } from '@mantine/core';
import {
  IconArrowBackUp,
  IconArrowForwardUp,
  IconDots,
  IconHistory,
  IconKeyboard,
  IconMoonStars,
  IconSun,
} from '@tabler/icons-react';
import { useEffect, useState } from 'react';
import { Link, NavLink, Outlet, useMatch, useParams } from 'react-router';
import { tell } from '../../api/notices.js';
import { ProjectProvider, useProject } from '../../api/ProjectProvider.js';
import { useProjectState } from '../../api/queries.js';
import { useShortcut } from '../../shared/keys/useShortcut.js';
import { place, VIEWS, type View } from '../../shared/state/places.js';
import { useView } from '../../shared/state/view.js';
import { HistoryDrawer } from './HistoryDrawer.js';
import { JobsMenu } from './JobsMenu.js';
import { RateChain } from './RateChain.js';
import { ShortcutSheet } from './ShortcutSheet.js';
import classes from './shell.module.css';
import { UnsavedNotice } from './UnsavedNotice.js';
import { useReleasedChoices } from './useReleasedChoices.js';
import { useStrayDrops } from './useStrayDrops.js';

const HINTS: Record<View, string> = {
  sources: 'what you shot',
  timelines: 'what rate it runs',
  retime: 'slower, smoother',
  align: 'two recordings',
  check: 'what is true',
  render: 'what you send',
};

/** The frame of every view: rate chain, undo, jobs, the way between views. */
export function Shell() {
  const { project = '' } = useParams();
  const state = useProjectState(project);
  if (state.isPending) return <Loader m="xl" />;
  if (state.isError) {
    return (
      <div className={classes.lost}>
        <div className="notice" data-tone="rust">
          {state.error.message}
        </div>
        <Button component={Link} to="/" mt="md">
          All projects
        </Button>
      </div>
    );
  }
  return (
    <ProjectProvider state={state.data}>
      <Frame />
    </ProjectProvider>
  );
}

function Frame() {
  const { id, state, project, undo, redo } = useProject();
  const [history, setHistory] = useState(false);
  const [sheet, setSheet] = useState(false);
  const setLastTimeline = useView((s) => s.setLastTimeline);
  const inEdit = useMatch('/p/:project/timelines/:timeline/*')?.params.timeline;
  const inRetime = useMatch('/p/:project/retime/:timeline/*')?.params.timeline;
  const onTimeline = inEdit ?? inRetime;
  useEffect(() => {
    if (onTimeline) setLastTimeline(onTimeline);
  }, [onTimeline, setLastTimeline]);
  useReleasedChoices();
  useStrayDrops(refuseDrop);
  useShortcut('undo', undo, { preventDefault: true });
  useShortcut('redo', redo, { preventDefault: true });
  useShortcut('shortcuts', () => setSheet(true), { useKey: true });
  return (
    <div className={classes.frame}>
      <header className={classes.header}>
        <Link to="/" className={classes.brand} title="All projects">
          <img src="/mark.svg" alt="" width={26} height={26} className={classes.mark} />
          <span>
            <b>Thawline</b>
            <small className="quiet">{project.name}</small>
          </span>
        </Link>
        <RateChain />
        <div className={classes.tools}>
          <Button
            variant="default"
            size="compact-md"
            onClick={undo}
            disabled={!state.undoLabel}
            title={state.undoLabel ? `Undo: ${state.undoLabel}` : 'Nothing to undo'}
            leftSection={<IconArrowBackUp size={16} />}
          >
            Undo
          </Button>
          <Button
            variant="default"
            size="compact-md"
            onClick={redo}
            disabled={!state.redoLabel}
            title={state.redoLabel ? `Redo: ${state.redoLabel}` : 'Nothing to redo'}
            aria-label="Redo"
          >
            <IconArrowForwardUp size={16} />
          </Button>
          <JobsMenu />
          <MoreMenu onHistory={() => setHistory(true)} onShortcuts={() => setSheet(true)} />
        </div>
      </header>
      <nav className={classes.nav} aria-label="Views">
        {VIEWS.map((view) => (
          <NavLink key={view} to={place(id, view, view === 'timelines' ? onTimeline : undefined)} className={classes.view ?? ''}>
            <b>{view[0]?.toUpperCase() + view.slice(1)}</b>
            <small>{HINTS[view]}</small>
          </NavLink>
        ))}
      </nav>
      <UnsavedNotice />
      <main className={classes.main}>
        <Outlet />
      </main>
      <HistoryDrawer opened={history} onClose={() => setHistory(false)} />
      <ShortcutSheet opened={sheet} onClose={() => setSheet(false)} />
    </div>
  );
}

function refuseDrop(files: number): void {
  tell(
    `${files === 1 ? 'That file was' : 'Those files were'} not taken: drop files on Sources, or an edit file on the sheet that opens one.`,
  );
}

function MoreMenu({ onHistory, onShortcuts }: { onHistory: () => void; onShortcuts: () => void }) {
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme('light');
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <Button variant="default" size="compact-md" aria-label="More">
          <IconDots size={16} />
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item leftSection={<IconHistory size={16} />} onClick={onHistory}>
          History
        </Menu.Item>
        <Menu.Item leftSection={<IconKeyboard size={16} />} onClick={onShortcuts}>
          Shortcuts
        </Menu.Item>
        <Menu.Item
          leftSection={scheme === 'dark' ? <IconSun size={16} /> : <IconMoonStars size={16} />}
          onClick={() => setColorScheme(scheme === 'dark' ? 'light' : 'dark')}
        >
          {scheme === 'dark' ? 'Light scheme' : 'Dark scheme'}
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
