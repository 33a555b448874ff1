// Files that a person hands in.
import { Refused, lost } from '../api/client'

const MB = 1024 * 1024

/** A file that is not too large for the server; refused before it is sent where it is. */
export function upTo(most: number, file: File) {
  if (file.size > most * MB) {
    throw new Refused({
      ...lost,
      status: 422,
      type: 'faulty-file',
      title: `${file.name} has ${(file.size / MB).toFixed(1)} MB; the most that is taken is ${most} MB. Nothing was taken from it.`,
    })
  }
  return file
}

/** The text of a file; refused where the server would not take it. */
export const readFile = async (file: File) => upTo(2, file).text()
