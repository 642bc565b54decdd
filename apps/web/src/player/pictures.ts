import { address } from '@thawline/contract';

/** Where exactly that picture is to be had. */
export function pictureAddress(mediaId: string, picture: number): string {
  return address('picture', { media: mediaId, picture });
}

/** Asks for pictures before they are wanted, so that stepping shows them at once. The browser's own cache keeps them. */
export function fetchAhead(mediaId: string, pictures: readonly number[]): void {
  for (const picture of pictures) {
    const image = new Image();
    image.src = pictureAddress(mediaId, picture);
  }
}
