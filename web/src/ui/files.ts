// Files that a person hands in.
import { Refused, lost } from '../api/client'

/** The most the server takes. */
const LARGEST = 2 * 1024 * 1024

/** The text of a file; refused where the server would not take it. */
export async function readFile(file: File) {
  const refuse = (title: string) => new Refused({ ...lost, status: 422, type: 'faulty-file', title })
  if (file.size > LARGEST) {
    throw refuse(
      `${file.name} has ${(file.size / 1048576).toFixed(1)} MB; the most that is taken is 2 MB. Nothing was taken from it.`,
    )
  }
  return file.text()
}
