// Writes are done in the order they were pressed in: one that cannot wait does not overtake what does.

let before: () => Promise<boolean> = () => Promise.resolve(true)

/** Who knows whether all that was pressed earlier is sent. */
export const earlierWrites = (sent: () => Promise<boolean>) => {
  before = sent
}

/** Something that was pressed earlier waits for the server. */
export class Earlier extends Error {}

/** Sends requests; a write only where nothing that was pressed earlier still waits. */
export const inOrder =
  (send: (request: Request) => Promise<Response>) =>
  async (request: Request): Promise<Response> => {
    if (request.headers.get('Idempotency-Key') && !(await before())) throw new Earlier()
    return send(request)
  }
