import { MediaError, sentence } from '@thawline/media';

/** Names the file in what went wrong. */
export async function namingFile<T>(file: string, work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    if (error instanceof MediaError) throw new Error(sentence(error.code, file, error.detail));
    throw error;
  }
}
