import { useView } from '../../../shared/state/view.js';
import { REMARK_WORDS } from './SourceBar.js';
import classes from './sources.module.css';

/** That the list does not show all sources, and the way back. */
export function FilterNote() {
  const { rates, remark } = useView((s) => s.sourceList);
  const setList = useView((s) => s.setSourceList);
  const only = [...(rates.length > 0 ? ['the chosen rates'] : []), ...(remark ? [REMARK_WORDS[remark]] : [])];
  if (only.length === 0) return null;
  return (
    <div className={classes.filtered}>
      Only {only.join(', ')}.
      <button type="button" className={classes.plain} onClick={() => setList({ rates: [], remark: null })}>
        Show all
      </button>
    </div>
  );
}
