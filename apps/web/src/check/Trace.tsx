import { useComputedColorScheme } from '@mantine/core';
import type { CheckReply } from '@thawline/contract';
import { BarController, BarElement, CategoryScale, Chart, type ChartConfiguration, LogarithmicScale, Tooltip } from 'chart.js';
import { useEffect, useMemo, useRef } from 'react';
import '../player/charts.js';
import { count } from '../words.js';
import classes from './check.module.css';

Chart.register(BarController, BarElement, CategoryScale, LogarithmicScale, Tooltip);

/** No more bars than this: in longer clips each bar is the largest change of its pictures, held ones keep a bar of their own. */
const MOST_BARS = 900;
const FLOOR = 0.02;

interface Bar {
  readonly picture: number;
  readonly change: number;
  readonly held: boolean;
}

function barsOf(check: CheckReply): Bar[] {
  const held = new Set(check.verdict.held);
  const per = Math.max(1, Math.ceil(check.trace.length / MOST_BARS));
  const bars: Bar[] = [];
  for (let at = 0; at < check.trace.length; at += per) {
    let best: Bar | null = null;
    for (let i = at; i < Math.min(at + per, check.trace.length); i++) {
      const bar = { picture: i + 1, change: Math.max(FLOOR, check.trace[i] as number), held: held.has(i + 1) };
      if (!best || (per > 1 && bar.held && !best.held) || (bar.held === best.held && bar.change > best.change)) best = bar;
    }
    if (best) bars.push(best);
  }
  return bars;
}

/** Change of every picture from the one before, on a log scale. A press goes to the picture. */
export function Trace({
  check,
  picture,
  onPicture,
}: {
  check: CheckReply;
  picture: number;
  onPicture: (picture: number) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const scheme = useComputedColorScheme('light');
  const bars = useMemo(() => barsOf(check), [check]);
  const go = useRef(onPicture);
  go.current = onPicture;
  const per = Math.max(1, Math.ceil(check.trace.length / MOST_BARS));
  const here = Math.floor((picture - 1) / per);
  useEffect(() => {
    if (!canvas.current) return;
    // The scheme's own colours; read anew when it changes.
    const style = getComputedStyle(document.documentElement);
    const role = (name: string): string => style.getPropertyValue(name).trim();
    const quiet = scheme === 'dark' ? role('--quiet') : role('--quiet');
    const config: ChartConfiguration<'bar'> = {
      type: 'bar',
      data: {
        labels: bars.map((b) => b.picture),
        datasets: [
          {
            data: bars.map((b) => b.change),
            backgroundColor: bars.map((b) => (b.held ? role('--ice') : role('--ink'))),
            barPercentage: 0.62,
            categoryPercentage: 1,
            minBarLength: 2,
          },
        ],
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        onClick: (_event, elements) => {
          const bar = bars[elements[0]?.index ?? -1];
          if (bar) go.current(bar.picture);
        },
        interaction: { mode: 'index', intersect: false },
        plugins: {
          legend: { display: false },
          tooltip: {
            displayColors: false,
            callbacks: {
              title: (items) => `picture ${items[0]?.label}`,
              label: (item) => `change ${Number(item.raw).toFixed(2)}${bars[item.dataIndex]?.held ? ', held' : ''}`,
            },
          },
        },
        scales: {
          x: { ticks: { color: quiet, maxTicksLimit: 12, maxRotation: 0, autoSkipPadding: 20 }, grid: { display: false } },
          y: {
            type: 'logarithmic',
            min: FLOOR,
            ticks: { color: quiet, callback: (v) => ([0.1, 1, 10, 100].includes(Number(v)) ? v : '') },
            grid: { color: role('--line') },
          },
        },
      },
    };
    const chart = new Chart(canvas.current, config);
    return () => chart.destroy();
  }, [bars, scheme]);
  return (
    <div className={classes.trace}>
      <div className={classes.head}>
        <h2 className="heading">Change from the picture before</h2>
        <span className="quiet">
          log scale, in 8-bit steps &middot; ice is a hold
          {check.verdict.holdCeiling !== null && (
            <>
              {' '}
              &middot; holds stay under <b className="number">{check.verdict.holdCeiling.toFixed(2)}</b>
            </>
          )}
        </span>
      </div>
      <div className={classes.chart}>
        <canvas ref={canvas} aria-label={`Change of ${count(check.trace.length)} pictures`} role="img" data-testid="trace" />
        {bars.length > 0 && picture > 0 && (
          <i className={classes.here} style={{ left: `calc(34px + (100% - 42px) * ${(here + 0.5) / bars.length})` }} />
        )}
      </div>
    </div>
  );
}
