import classes from './fact.module.css';

interface Props {
  readonly name: string;
  readonly value: string;
  /** A second line, quiet. */
  readonly under?: string | undefined;
  readonly tone?: 'sand' | 'ice' | 'rust' | 'moss' | undefined;
  /** How it stands out among its neighbours; plain in a row of fields. */
  readonly size?: 'plain' | 'usual' | 'large';
}

/** A number with its name above. */
export function Fact({ name, value, under, tone, size = 'usual' }: Props) {
  return (
    <div>
      <small className="quiet">{name}</small>
      <div className={`number ${classes.fact}`} data-tone={tone} data-size={size}>
        {value}
      </div>
      {under && <small className="quiet number">{under}</small>}
    </div>
  );
}
