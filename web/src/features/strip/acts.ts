// What the pages of a job's parts call what they are sent.
import type { Schemas } from '../../domain/schema'

export type Parts = Schemas['PartsView']
export type OnJob = Schemas['OnJob']
