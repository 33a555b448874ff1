// That what was done since the last backup would be lost with the disk.
import { useBackups } from '../../api/queries'
import type { Schemas } from '../../domain/schema'
import { dayText } from '../../domain/units'

export function BackupNotice() {
  const { data } = useBackups()
  return data?.too_old ? <TooOld backups={data} /> : null
}

export function TooOld({ backups }: { backups: Schemas['Backups'] }) {
  return (
    <div role="status" className="my-3 border-l-4 border-brass bg-brass-soft px-4 py-3">
      <p className="font-bold">
        {backups.last
          ? `The last backup is of ${dayText(backups.last)}: what was done since would be lost with the disk.`
          : 'There is no backup of this shop: all of it would be lost with the disk.'}
      </p>
      {backups.failed && <p className="break-words">The last try came to nothing: {backups.failed}</p>}
      <p>
        {backups.nightly
          ? 'It is tried again within the hour. To make one now, on the machine that the shop runs on: '
          : 'None is made by itself here. To make one, on the machine that the shop runs on: '}
        <code className="figure">./backup FILE</code>
      </p>
    </div>
  )
}
