import { formatDecimalRate } from '@thawline/core/time';
import type { Part } from '@thawline/core/truth';
import { placeWords, type Source, stretchWords } from '@thawline/project';
import { pictureAddress } from '../../../shared/player/pictures.js';
import classes from './check.module.css';

/** Parts of the picture that have rates of their own, drawn over it and listed, the fastest first. */
export function RatesInFrame({ source, parts, picture }: { source: Source; parts: readonly Part[]; picture: number }) {
  const [fastest] = parts;
  if (!fastest) return null;
  return (
    <>
      <h2 className="heading">Rates in the frame</h2>
      <div className={classes['frame-rates']}>
        <img src={pictureAddress(source.mediaId, picture)} alt={`Picture ${picture} with its parts`} />
        {parts.map((part) => (
          <i
            key={part.pattern}
            data-slow={part.trueRate < fastest.trueRate || undefined}
            style={{
              left: `${part.x * 100}%`,
              top: `${part.y * 100}%`,
              width: `${part.width * 100}%`,
              height: `${part.height * 100}%`,
            }}
          >
            <b className="number">{formatDecimalRate(part.trueRate)}</b>
          </i>
        ))}
      </div>
      <div className={classes.stretches}>
        {parts.map((part) => (
          <div
            key={part.pattern}
            className={classes.stretch}
            title={`${stretchWords(part.pattern)}, ${(part.certainty * 100).toFixed(1)} % certain`}
          >
            <span>{placeWords(part)}</span>
            <b className="number">{formatDecimalRate(part.trueRate)}</b>
          </div>
        ))}
      </div>
    </>
  );
}
