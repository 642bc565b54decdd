import { useMemo } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { rateGroups } from '../../../shared/rates/rates.js';
import { useView } from '../../../shared/state/view.js';
import { clock, plural } from '../../../shared/words.js';
import classes from './sources.module.css';

/** Running time by the rate it is read at, longest first; variable timing is striped. A press shows and chooses that rate, with ctrl also. */
export function RatesBar() {
  const { project } = useProject();
  const shown = useView((s) => s.sourceList.rates);
  const setList = useView((s) => s.setSourceList);
  const setChosen = useView((s) => s.setChosenSources);
  const groups = useMemo(() => rateGroups(project.sources), [project.sources]);
  const total = groups.reduce((sum, g) => sum + g.seconds, 0);
  const press = (key: string, more: boolean): void => {
    const only = shown.length === 1 && shown[0] === key;
    const rates = more ? (shown.includes(key) ? shown.filter((k) => k !== key) : [...shown, key]) : only ? [] : [key];
    setList({ rates });
    setChosen(groups.filter((g) => rates.includes(g.key)).flatMap((g) => g.sources.map((s) => s.id)));
  };
  return (
    <section className={`sheet ${classes.rates}`} aria-label="Rates you have">
      <div className={classes.ratesHead}>
        <h2 className="heading">Rates you have</h2>
        <span className="quiet">
          by running time &middot; {clock(total)} in {plural(project.sources.length, 'source')}
        </span>
      </div>
      <div className={classes.bars}>
        {groups.map((group, i) => (
          <button
            type="button"
            key={group.key}
            className={classes.bar}
            style={{ flexGrow: group.seconds }}
            aria-pressed={shown.includes(group.key)}
            data-away={(shown.length > 0 && !shown.includes(group.key)) || undefined}
            title={`${group.label}: ${clock(group.seconds)} in ${plural(group.sources.length, 'source')}. Press to show and choose these.`}
            onClick={(e) => press(group.key, e.ctrlKey || e.metaKey)}
          >
            <i data-variable={group.variable || undefined} style={{ opacity: Math.max(0.25, 1 - i * 0.15) }} />
            <span className="number">{group.label.replace(' variable', '')}</span>
          </button>
        ))}
      </div>
    </section>
  );
}
