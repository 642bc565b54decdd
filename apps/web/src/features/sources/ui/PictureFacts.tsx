import type { Source } from '@thawline/project';
import { pictureFacts, pictureRemarks } from '../model/pictureFacts.js';
import classes from './sources.module.css';

/** What the file says of its pictures: samples, colours, light, shape. */
export function PictureFacts({ source }: { readonly source: Source }) {
  const facts = pictureFacts(source);
  if (facts.length === 0) return null;
  return (
    <section aria-label="Pictures as stored">
      <h3 className={classes.sub}>Pictures as stored</h3>
      <dl className={classes.facts}>
        {facts.map(({ name, words }) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

/** What of its pictures needs care, a sentence each. */
export function PictureRemarks({ source }: { readonly source: Source }) {
  return pictureRemarks(source).map(({ remark, words, odd }) => (
    <div key={remark} className="notice" data-tone={odd ? 'rust' : undefined}>
      {words}
    </div>
  ));
}
