import { address } from '@thawline/contract';

/** Where exactly that picture is to be had. */
export function pictureAddress(mediaId: string, picture: number): string {
  return address('picture', { media: mediaId, picture });
}

/** Where a source's thumbnail strip is to be had, once its proxy is made. */
export function thumbsAddress(mediaId: string): string {
  return address('thumbs', { media: mediaId });
}

/** Asks for pictures before they are wanted, so that stepping shows them at once. The browser's own cache keeps them. */
export function fetchAhead(mediaId: string, pictures: readonly number[]): void {
  for (const picture of pictures) {
    const image = new Image();
    image.src = pictureAddress(mediaId, picture);
  }
}
