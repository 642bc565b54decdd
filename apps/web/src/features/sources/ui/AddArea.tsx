import { formatRate } from '@thawline/core/time';
import { type ReactNode, useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { suggestRate } from '../../../shared/rates/rateMismatches.js';
import { type Adding, type AddPlan, planFiles, planFolders, useAdding } from '../model/adding.js';
import { AddSheet } from './AddSheet.js';
import { FolderBrowser } from './FolderBrowser.js';
import classes from './sources.module.css';

/** What can be opened to add sources, and how adding goes. */
export interface AddWays {
  readonly adding: Adding;
  /** Whether something to answer is open. */
  readonly asking: boolean;
  readonly onFiles: () => void;
  readonly onFolder: () => void;
  readonly onInPlace: () => void;
}

/** The view as a place to drop files on, with all that adding asks: which folder, which rate. */
export function AddArea({ children }: { children: (ways: AddWays) => ReactNode }) {
  const { id, project } = useProject();
  const adding = useAdding(id);
  const [plan, setPlan] = useState<AddPlan | null>(null);
  const [browsing, setBrowsing] = useState(false);
  const folder = useRef<HTMLInputElement>(null);
  const take = (found: AddPlan): void => {
    // Plain files are added at once; a folder, or what wants a rate, is shown first.
    const plain = found.passed.length === 0 && found.refused.length === 0 && found.items.every((i) => i.kind !== 'series');
    if (plain && found.items.length > 0) void adding.add(found, null);
    else setPlan(found);
  };
  const drop = useDropzone({
    onDrop: (dropped) => dropped.length > 0 && take(planFiles(dropped)),
    noClick: true,
    noKeyboard: true,
  });
  const suggestion = project.timelines[0]?.rate ?? suggestRate(project)?.rate;
  return (
    <div className={classes.view} {...drop.getRootProps()}>
      <input {...drop.getInputProps({ 'aria-label': 'Files to add' })} />
      <input
        ref={folder}
        type="file"
        hidden
        multiple
        aria-label="Folder to add"
        // React's types do not know this attribute.
        {...{ webkitdirectory: '' }}
        onChange={(e) => {
          const dropped = [...(e.currentTarget.files ?? [])];
          e.currentTarget.value = '';
          if (dropped.length > 0) take(planFiles(dropped));
        }}
      />
      {drop.isDragActive && <div className={classes.drop}>Drop to add them to {project.name}</div>}
      {children({
        adding,
        asking: browsing || plan !== null,
        onFiles: drop.open,
        onFolder: () => folder.current?.click(),
        onInPlace: () => setBrowsing(true),
      })}
      {browsing && (
        <FolderBrowser
          title="Use files where they lie"
          action="Look into"
          onClose={() => setBrowsing(false)}
          onChoose={(paths) => {
            setBrowsing(false);
            planFolders(paths).then(setPlan, tellError);
          }}
        />
      )}
      {plan && (
        <AddSheet
          plan={plan}
          suggested={suggestion ? formatRate(suggestion) : '25'}
          onClose={() => setPlan(null)}
          onAdd={(found, rate) => {
            setPlan(null);
            void adding.add(found, rate);
          }}
        />
      )}
    </div>
  );
}
