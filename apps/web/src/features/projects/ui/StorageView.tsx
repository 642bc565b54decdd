import { Link } from 'react-router';
import { Backups } from './Backups.js';
import { Brand } from './Brand.js';
import classes from './projects.module.css';
import { Room } from './Room.js';

/** What keeps the work safe, and what takes the room. */
export function StorageView() {
  return (
    <main className={classes.wide}>
      <Brand />
      <div className={classes.columns}>
        <Room />
        <Backups />
      </div>
      <p className={classes.foot}>
        <Link to="/">All projects</Link>
      </p>
    </main>
  );
}
