/** What is laid over a slot: chosen, and taken off again. */
import { useApp, useDocument } from '../../app/context.ts'
import { Button } from '../../ui/button.tsx'
import { FilePick, WAV_FILES } from '../../ui/file-pick.tsx'
import { Choice } from '../../ui/select.tsx'
import { Row, type SlotParts } from './option-row.tsx'
import { holdNow, layFile, laySnapshot, snapshotsOf } from './overlay-sources.ts'

export const OverRows = ({ name, slot: { overlays }, feed }: SlotParts) => {
  const app = useApp()
  const snapshots = useDocument(({ patch }) => snapshotsOf(patch))
  return (
    <>
      <Row label="Lay over it">
        <Button look="small" onClick={() => void holdNow(app, feed, name)}>
          What is heard now
        </Button>
        <FilePick
          label={`A file over slot ${name}`}
          accept={WAV_FILES}
          onFile={(file) => void layFile(app, feed, name, file)}
        >
          {(open) => (
            <Button look="small" onClick={open}>
              A file
            </Button>
          )}
        </FilePick>
      </Row>
      {snapshots.length > 0 && (
        <Row label="or a snapshot">
          <Choice
            label={`A snapshot over slot ${name}`}
            value=""
            options={[
              { value: '', label: 'choose …' },
              ...snapshots.map((snapshot) => ({ value: snapshot.id, label: snapshot.name })),
            ]}
            onChange={(id) => {
              const snapshot = snapshots.find((each) => each.id === id)
              if (snapshot) void laySnapshot(app, feed, name, snapshot)
            }}
          />
        </Row>
      )}
      {overlays.map((overlay) => (
        <Row key={overlay.id} label={overlay.name}>
          <Button
            look="small"
            onClick={() => {
              app.probe.getState().change(name, { overlays: overlays.filter(({ id }) => id !== overlay.id) })
            }}
          >
            Take off
          </Button>
        </Row>
      ))}
    </>
  )
}
