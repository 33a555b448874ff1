// What is done with pieces, in words.
import type { Schemas } from '../api/client'

export const actWords: Record<Schemas['Act'], { press: string; done: string }> = {
  take: { press: 'Take out', done: 'Took' },
  return: { press: 'Put in', done: 'Put in' },
  scrap: { press: 'Scrap', done: 'Scrapped' },
  order: { press: 'Order', done: 'Ordered' },
  come: { press: 'Has come', done: 'Come in:' },
  cut_order: { press: 'Not coming', done: 'Off the order:' },
}

/** A line of the record. */
export const moveWords: Record<string, string> = {
  counted: 'counted',
  imported: 'taken in from a file',
  fitted: 'fitted',
  put_back: 'put back',
  taken: 'taken out',
  returned: 'put in',
  scrapped: 'scrapped',
  ordered: 'ordered',
  order_cut: 'taken off the order',
  came: 'come from the order',
  miked: 'measured by micrometer',
  undone: 'undone',
}
