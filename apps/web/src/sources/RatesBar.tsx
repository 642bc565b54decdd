import { formatRate, rateToNumber } from '@thawline/core/time';
import { useProject } from '../api/project.js';
import { clock, plural } from '../words.js';
import classes from './sources.module.css';

/** Running time by measured rate, longest first; variable timing is striped. */
export function RatesBar() {
  const { project } = useProject();
  const groups = new Map<string, { label: string; seconds: number; variable: boolean; rate: number; sources: number }>();
  for (const s of project.sources) {
    const label = s.variable ? `${formatRate(s.measured.rate)} variable` : formatRate(s.measured.rate);
    const group = groups.get(label) ?? {
      label,
      seconds: 0,
      variable: s.variable,
      rate: rateToNumber(s.measured.rate),
      sources: 0,
    };
    groups.set(label, { ...group, seconds: group.seconds + s.seconds, sources: group.sources + 1 });
  }
  const total = project.sources.reduce((sum, s) => sum + s.seconds, 0);
  const bars = [...groups.values()].sort((a, b) => b.seconds - a.seconds);
  return (
    <section className={`sheet ${classes.rates}`}>
      <div className={classes.ratesHead}>
        <h2 className="heading">Rates you have</h2>
        <span className="quiet">
          by running time &middot; {clock(total)} in {plural(project.sources.length, 'source')}
        </span>
      </div>
      <div className={classes.bars}>
        {bars.map((bar, i) => (
          <div
            key={bar.label}
            className={classes.bar}
            style={{ flexGrow: bar.seconds }}
            title={`${bar.label}: ${clock(bar.seconds)} in ${plural(bar.sources, 'source')}`}
          >
            <div data-variable={bar.variable || undefined} style={{ opacity: Math.max(0.25, 1 - i * 0.17) }} />
            <span className="number">{bar.label}</span>
          </div>
        ))}
      </div>
    </section>
  );
}
