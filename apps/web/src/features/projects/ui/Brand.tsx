import { Link } from 'react-router';
import classes from './projects.module.css';

export function Brand() {
  return (
    <div className={classes.brand}>
      <Link to="/" title="All projects">
        <img src="/mark.svg" alt="All projects" width={34} height={34} />
      </Link>
      <div>
        <h1>Thawline</h1>
        <p className="quiet">What rate a file stores, what it measures, what is true.</p>
      </div>
    </div>
  );
}
