import { Modal } from '@mantine/core';
import type { FieldOrder } from '@thawline/core/fields';
import { useEffect, useState } from 'react';
import { fieldAddress } from './FieldPictures.js';
import classes from './fields.module.css';

/** Milliseconds that each field stands. */
const FIELD_MS = 320;
/** Frames that are played. */
const FRAMES = 4;

/** A few frames' fields played in both orders: in the wrong one what moves goes forward and back at each step. */
export function FlagProof({
  mediaId,
  frame,
  frames,
  measured,
  onClose,
}: {
  mediaId: string;
  frame: number;
  frames: number;
  measured: FieldOrder;
  onClose: () => void;
}) {
  const [step, setStep] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => setStep((s) => (s + 1) % (2 * FRAMES)), FIELD_MS);
    return () => clearInterval(timer);
  }, []);
  const from = Math.max(0, Math.min(frame, frames - FRAMES));
  const fields = Array.from({ length: 2 * FRAMES }, (_, i) => ({ n: from + (i >> 1), isFirst: i % 2 === 0 }));
  const other: FieldOrder = measured === 'top' ? 'bottom' : 'top';
  return (
    <Modal opened onClose={onClose} title="Both ways round" size={900}>
      <p className="quiet">
        The same {2 * FRAMES} fields from frame <span className="number">{from}</span> on, one after the other. In the right order
        what moves goes on; in the wrong one it goes forward and back.
      </p>
      <div className={classes.proof}>
        {[measured, other].map((order) => (
          <figure key={order}>
            {fields.map(({ n, isFirst }, i) => (
              <img
                key={`${n} ${isFirst}`}
                hidden={i !== step}
                src={fieldAddress(mediaId, n, isFirst === (order === measured) ? 'rebuilt-first' : 'rebuilt-second', measured)}
                alt={`${order} field first, field ${i + 1} of ${2 * FRAMES}`}
              />
            ))}
            <figcaption className={order === measured ? 'moss' : 'rust'}>
              {order} field first{order === measured ? ', as measured' : ''}
            </figcaption>
          </figure>
        ))}
      </div>
    </Modal>
  );
}
