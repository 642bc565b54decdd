import { formatRate } from '@thawline/core/time';
import { type Claim, parseClaim } from '@thawline/core/truth';
import type { Source } from '@thawline/project';
import { useEffect, useRef, useState } from 'react';
import { useProject } from '../../api/ProjectProvider.js';

/** The rate that a typed claim is about, as it is shown; empty for none. */
function shown(text: string): string {
  const claim = parseClaim(text);
  return claim ? formatRate(claim.rate) : '';
}

/** The field for the camera's claimed rate: its text while it is being typed, and what it means. */
export function useClaim(source: Source): {
  readonly typed: string;
  readonly type: (text: string) => void;
  /** Null while nothing, or nothing understood, is typed. */
  readonly claim: Claim | null;
  readonly wrong: boolean;
  /** Takes it over: on Enter and on leaving the field. */
  readonly keep: () => void;
} {
  const { run } = useProject();
  const own = source.claimed ? formatRate(source.claimed) : '';
  const [typed, setTyped] = useState(own);
  const said = useRef(own);
  // An undo, or another tab, changes the claim beneath what is typed here: that counts.
  useEffect(() => {
    setTyped((text) => (shown(text) === own ? text : own));
    said.current = own;
  }, [own]);
  const claim = parseClaim(typed);
  const wrong = !claim && typed.trim() !== '';
  const keep = (): void => {
    // Enter and then leaving the field is one thing said, not two.
    if (wrong || said.current === typed) return;
    said.current = typed;
    if (shown(typed) !== own) void run({ type: 'setClaim', sourceIds: [source.id], claimed: claim?.rate ?? null });
  };
  return { typed, type: setTyped, claim, wrong, keep };
}

/** Said where what is typed is no claim. */
export const CLAIM_HINT = 'Not a rate. Try 600, or 1/24 of 600.';
