// What a person has settled on of used parts.

/** For a part the job whose box it comes out of, or a new one. */
export type Pins = Record<string, number | null>
