import classes from './check.module.css';

/** A number with its name above. */
export function Fact({ name, value }: { name: string; value: string }) {
  return (
    <div>
      <small className="quiet">{name}</small>
      <div className={`number ${classes.fact}`}>{value}</div>
    </div>
  );
}
