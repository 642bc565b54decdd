import { Controller, Inject, Param, Query, Res } from '@nestjs/common';
import { FIELD_VIEWS, type FieldView, fieldPictureQuerySchema } from '@thawline/contract';
import { stillType } from '@thawline/media';
import type { Response } from 'express';
import { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
import { PicturesService } from './pictures.service.js';

const pictureNumber = new Checked(z.coerce.number().int().min(0).max(100_000_000));
const fieldView = new Checked(z.enum(FIELD_VIEWS));
const fieldPictureQuery = new Checked(fieldPictureQuerySchema);
const runLength = new Checked(z.coerce.number().int().min(1).max(100));

@Controller()
export class PicturesController {
  constructor(@Inject(PicturesService) private readonly pictures: PicturesService) {}

  @Route('picture')
  async read(
    @Param('media', checkedId) media: string,
    @Param('picture', pictureNumber) picture: number,
    @Res() response: Response,
  ) {
    const still = await this.pictures.picture(media, picture);
    // A file's pictures never change: changed bytes get another id.
    response.set({ 'Content-Type': stillType(still), 'Cache-Control': 'private, max-age=31536000, immutable' });
    response.end(still);
  }

  @Route('fieldPicture')
  async field(
    @Param('media', checkedId) media: string,
    @Param('frame', pictureNumber) frame: number,
    @Param('view', fieldView) view: FieldView,
    @Query(fieldPictureQuery) { order }: z.output<typeof fieldPictureQuerySchema>,
    @Res() response: Response,
  ) {
    const jpeg = await this.pictures.field(media, { frame, view, order });
    response.set({ 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=31536000, immutable' });
    response.end(jpeg);
  }

  @Route('pictureRun')
  async run(
    @Param('media', checkedId) media: string,
    @Param('picture', pictureNumber) picture: number,
    @Param('count', runLength) count: number,
    @Res() response: Response,
  ) {
    const bytes = await this.pictures.run(media, picture, count);
    response.set({ 'Content-Type': 'application/octet-stream', 'Cache-Control': 'private, max-age=31536000, immutable' });
    response.end(bytes);
  }

  @Route('thumbs')
  async thumbs(@Param('media', checkedId) media: string, @Res() response: Response) {
    const strip = await this.pictures.thumbs(media);
    response.set({ 'Content-Type': 'image/jpeg', 'Cache-Control': 'private, max-age=31536000, immutable' });
    response.end(strip);
  }
}
