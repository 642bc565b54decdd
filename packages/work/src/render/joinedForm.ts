import type { JoinRequest } from '@thawline/media';
import type { FormKind } from '@thawline/project';

/**
 * The form in which the media port joins a render's parts.
 * @throws RangeError for forms that are written picture by picture, or are sound alone
 */
export function joinedForm(kind: FormKind): JoinRequest['form'] {
  switch (kind) {
    case 'mp4':
    case 'webm':
    case 'mkv':
    case 'mov':
      return kind;
    case 'y4m':
    case 'png':
    case 'tiff':
    case 'exr':
    case 'wav':
      throw new RangeError(`parts are not joined as ${kind}`);
    default:
      return kind satisfies never;
  }
}
