// One gauge's card: entered or changed; each change is kept with who made it.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { Ask, Labelled, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { gaugeName } from '../../domain/labels'
import { nmOf } from '../../domain/units'

type Gauge = Schemas['Registered']
type Card = Schemas['GaugeCard']
type LengthUnit = Schemas['Unit']

const units: Record<LengthUnit, string> = { mm: 'mm', um: 'µm', thou: 'thou', in: 'in' }

function cardOf(g: Gauge | null): Card {
  if (!g)
    return {
      key: '',
      name: '',
      kind: 'dial',
      unit: 'mm',
      resolution: '',
      permissible_error: '',
      repeatability: '',
      leaves: '',
      checked_on: null,
      due_on: null,
      live_at: '',
      retired: false,
      usual: false,
    }
  const unit = (g.unit in units ? g.unit : 'mm') as LengthUnit
  const figure = (nm: number | null | undefined, si: number | null | undefined) =>
    nm != null ? String(+(nm / nmOf[unit]).toFixed(6)) : si != null ? String(si) : ''
  return {
    key: g.gauge_key,
    name: g.name,
    kind: g.kind,
    unit,
    resolution: figure(g.resolution_nm, g.resolution_si),
    permissible_error: figure(g.permissible_error_nm, g.permissible_error_si),
    repeatability: figure(g.repeatability_nm, g.repeatability_si),
    leaves: g.leaves_nm.map((l) => String(+(l / nmOf[unit]).toFixed(6))).join(', '),
    checked_on: g.checked_on ?? null,
    due_on: g.due_on ?? null,
    live_at: g.live_at,
    retired: g.retired,
    usual: g.usual,
  }
}

const keyOf = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 40)

export function GaugeCard({ gauge, onClose }: { gauge: Gauge | null; onClose: () => void }) {
  const { who } = useBench()
  const client = useQueryClient()
  const [card, setCard] = useState(() => cardOf(gauge))
  const set = (change: Partial<Card>) => setCard((now) => ({ ...now, ...change }))
  const keep = useMutation<Gauge[], Refused>({
    mutationFn: () =>
      answer(
        server.PUT('/api/gauges', {
          params: { header: { 'Idempotency-Key': writeKey() } },
          body: { card: { ...card, key: card.key || keyOf(card.name) }, seen: gauge?.version ?? null, who },
        }),
      ),
    onSuccess: (fresh) => {
      client.setQueryData(['gauges'], fresh)
      void client.invalidateQueries({ queryKey: ['gap'] })
      onClose()
    },
  })
  const wrong = keep.error?.problem
  const fault = (field: string) => (wrong?.field === field ? wrong.title : undefined)
  const known = ['name', 'resolution', 'permissible_error', 'repeatability', 'leaves', 'due_on', 'live_at']
  const force = card.kind === 'torque_wrench' || card.kind === 'spring_scale'
  const u =
    card.kind === 'torque_wrench' ? 'N·m' : card.kind === 'spring_scale' ? 'N' : units[card.unit ?? 'mm']
  const text = (
    field: 'name' | 'resolution' | 'permissible_error' | 'repeatability' | 'leaves' | 'live_at',
    label: string,
    hint?: string,
  ) => (
    <Labelled label={label} hint={hint} error={fault(field)}>
      {(id) => (
        <input
          id={id}
          className={`field ${field === 'name' ? '' : 'figure'}`}
          autoComplete="off"
          value={card[field] ?? ''}
          onChange={(e) => set({ [field]: e.target.value })}
        />
      )}
    </Labelled>
  )
  return (
    <Ask open onClose={onClose} title={gauge ? gauge.name : 'New gauge'}>
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault()
          keep.mutate()
        }}
      >
        {text('name', 'What it is called')}
        <div className="grid gap-x-3 sm:grid-cols-2">
          <Labelled label="Kind">
            {(id) => (
              <select
                id={id}
                className="field"
                disabled={gauge != null}
                value={card.kind}
                onChange={(e) => set({ kind: e.target.value as Card['kind'] })}
              >
                {Object.entries(gaugeName).map(([kind, name]) => (
                  <option key={kind} value={kind}>
                    {name}
                  </option>
                ))}
              </select>
            )}
          </Labelled>
          {!force && (
            <Labelled label="It is read in">
              {(id) => (
                <select
                  id={id}
                  className="field"
                  value={card.unit ?? 'mm'}
                  onChange={(e) => set({ unit: e.target.value as LengthUnit })}
                >
                  {Object.entries(units).map(([unit, name]) => (
                    <option key={unit} value={unit}>
                      {name}
                    </option>
                  ))}
                </select>
              )}
            </Labelled>
          )}
        </div>
        <div className="grid gap-x-3 sm:grid-cols-3">
          {text('resolution', `Step, ${u}`, 'the smallest it shows')}
          {text('permissible_error', `Error ±, ${u}`, 'from its certificate')}
          {text('repeatability', `Scatter, ${u}`, 'leave empty if not known')}
        </div>
        {card.kind === 'feeler' && text('leaves', `Leaves, ${u}`, 'with commas between them')}
        <div className="grid gap-x-3 sm:grid-cols-2">
          {(['checked_on', 'due_on'] as const).map((field) => (
            <Labelled
              key={field}
              label={field === 'checked_on' ? 'Checked last' : 'Due to be checked'}
              error={fault(field)}
            >
              {(id) => (
                <input
                  id={id}
                  type="date"
                  className="field"
                  value={card[field] ?? ''}
                  onChange={(e) => set({ [field]: e.target.value || null })}
                />
              )}
            </Labelled>
          ))}
        </div>
        {card.kind === 'dial' &&
          text(
            'live_at',
            'Speaks at',
            'a digital gauge on this machine, such as 127.0.0.1:7420; empty where it is read by eye',
          )}
        <label className="flex min-h-12 items-center gap-3">
          <input
            type="checkbox"
            className="size-6"
            checked={card.usual ?? false}
            onChange={(e) => set({ usual: e.target.checked })}
          />
          Take it up first among its kind
        </label>
        {gauge && (
          <label className="flex min-h-12 items-center gap-3">
            <input
              type="checkbox"
              className="size-6"
              checked={card.retired ?? false}
              onChange={(e) => set({ retired: e.target.checked })}
            />
            No longer used
          </label>
        )}
        {(!wrong?.field || !known.includes(wrong.field)) && <Trouble error={keep.error} />}
        <div className="mt-4 flex justify-end gap-3">
          <button type="button" className="press-quiet" onClick={onClose}>
            Leave it
          </button>
          <button className="press" disabled={keep.isPending}>
            Keep the card
          </button>
        </div>
      </form>
    </Ask>
  )
}
