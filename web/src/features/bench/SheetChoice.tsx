// The sheet of a box, found by typing a part of its name.
import { useCombobox } from 'downshift'
import { useEffect, useState } from 'react'
import { boxName } from '../../domain/labels'
import type { Schemas } from '../../domain/schema'
import { hasWords } from '../../domain/words'

interface Props {
  id: string
  sheets: Schemas['SheetRow'][]
  /** The key of the chosen one, or nothing. */
  value: string
  onChange: (key: string) => void
}

export function SheetChoice({ id, sheets, value, onChange }: Props) {
  const chosen = sheets.find((s) => s.key === value) ?? null
  // What is typed towards a choice; none while the field shows what is chosen.
  const [typed, setTyped] = useState<string | null>(null)
  const found = sheets.filter((s) => hasWords(`${s.name} ${boxName[s.kind]}`, typed ?? ''))
  const { getInputProps, getMenuProps, getItemProps, isOpen, highlightedIndex } = useCombobox({
    inputId: id,
    items: found,
    selectedItem: chosen,
    inputValue: (chosen ? chosen.name : typed) ?? '',
    itemToString: (sheet) => sheet?.name ?? '',
    // Nobody who only looks at the list has chosen its first.
    stateReducer: (_, { type, changes }) =>
      type === useCombobox.stateChangeTypes.InputChange
        ? { ...changes, highlightedIndex: changes.inputValue ? 0 : -1 }
        : changes,
    onStateChange: ({ selectedItem }) => {
      if (!selectedItem) return
      setTyped(null)
      onChange(selectedItem.key)
    },
  })
  // Typed before the sheets were there, and left: the one that it names is chosen as they come.
  const only = typed && value === '' && !isOpen && found.length === 1 ? found[0]?.key : undefined
  useEffect(() => {
    if (only) onChange(only)
  }, [only, onChange])
  return (
    <div className="relative">
      <input
        {...getInputProps({
          'aria-labelledby': undefined,
          // At once, or letters typed fast are lost.
          onChange: (e) => {
            setTyped(e.currentTarget.value)
            onChange('')
          },
          onFocus: (e) => e.currentTarget.select(),
        })}
        className="field pr-10"
        placeholder="Type a part of its name, or press for the list"
      />
      <span
        aria-hidden="true"
        className="pointer-events-none absolute top-0 right-3 flex h-12 items-center text-dim"
      >
        ▾
      </span>
      {/* Closed it is hidden and not taken out: a dialog that loses a part while the focus moves takes the focus itself. */}
      <ul
        {...getMenuProps({ 'aria-label': 'Spec sheets', 'aria-labelledby': undefined, tabIndex: -1 })}
        hidden={!isOpen || found.length === 0}
        className="ruled mt-1 max-h-64 overflow-y-auto border-2 border-line"
      >
        {found.map((sheet, index) => (
          <li
            key={sheet.key}
            {...getItemProps({ item: sheet, index })}
            className={`flex min-h-11 cursor-pointer flex-wrap items-center gap-x-3 px-3 py-1 wrap-anywhere ${index === highlightedIndex ? 'bg-blue-soft' : ''}`}
          >
            <strong>{sheet.name}</strong>
            <span className="text-sm text-dim">{boxName[sheet.kind]}</span>
          </li>
        ))}
      </ul>
      {typed && found.length === 0 && (
        <p className="mt-1" role="status">
          No sheet has “{typed}” in its name.
        </p>
      )}
    </div>
  )
}
