// Who is at the bench, asked for where it is needed: what was asked for goes on once it is said.

type Asker = () => Promise<string>

let asker: Asker = () => Promise.resolve('')

/** Who asks; the screen's own question. */
export const whoIsAskedBy = (by: Asker) => {
  asker = by
}

/** The initials of who is at the bench; empty where nobody says. */
export const askWho = () => asker()
