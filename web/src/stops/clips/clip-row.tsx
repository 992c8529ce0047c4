import type { Clip, FieldInfo } from '@ennick/contract'
import { type DragEvent, memo, type ReactElement } from 'react'
import { type AfterEdit, CellEditor } from './cell-editor.tsx'
import { cellOf, isMono, isRight, type ShownColumn, Thumbnail, textOfCell } from './clip-cells.tsx'

/** What a row can ask of its table. */
export interface RowAction {
  mark(index: number, clipId: string, isRange: boolean): void
  open(index: number, clipId: string): void
  startEdit(index: number, clip: Clip, field: string): void
  /** `value` is null when the cell stays as it was. */
  endEdit(index: number, clipId: string, field: FieldInfo, value: string | null, then: AfterEdit): void
  drag(event: DragEvent, clipId: string): void
}

interface Props {
  readonly clip: Clip
  readonly index: number
  readonly columns: readonly ShownColumn[]
  readonly isCurrent: boolean
  readonly isMarked: boolean
  readonly editing: string | null
  /** That a proxy of it is on its way, in a word. */
  readonly underWay: string | null
  readonly onAction: <K extends keyof RowAction>(name: K, ...args: Parameters<RowAction[K]>) => void
}

/** A click on the box marks the row and does not open it. */
const stayHere = (event: { stopPropagation(): void }): void => event.stopPropagation()

/** One clip of the table. */
export const ClipRow = memo(function ClipRow({
  clip,
  index,
  columns,
  isCurrent,
  isMarked,
  editing,
  underWay,
  onAction,
}: Props): ReactElement {
  return (
    <tr
      className="clip"
      aria-selected={isMarked || undefined}
      aria-current={isCurrent || undefined}
      draggable={editing === null}
      onDragStart={(event) => onAction('drag', event, clip.id)}
      onClick={() => onAction('open', index, clip.id)}
    >
      <td>
        <input
          type="checkbox"
          onClick={stayHere}
          aria-label="Mark this row"
          checked={isMarked}
          onChange={(event) => onAction('mark', index, clip.id, (event.nativeEvent as MouseEvent).shiftKey)}
        />
      </td>
      <td>
        <Thumbnail clip={clip} />
      </td>
      {columns.map(({ field }) => {
        const isEdited = editing === field.id
        // The name opens the clip, as it is what people click; its cell is edited with e, or from the others with Tab.
        const isEditable = field.from === 'described' && field.id !== 'name'
        const looks = [
          isMono(field) && 'mono',
          isRight(field) && 'right',
          isEditable && !isEdited && 'editable',
        ].filter(Boolean)
        return (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the key e edits the row's cells, Tab the next
          <td
            key={field.id}
            data-field={field.id}
            className={looks.length ? looks.join(' ') : undefined}
            onClick={
              isEditable
                ? (event) => {
                    event.stopPropagation()
                    if (!isEdited) onAction('startEdit', index, clip, field.id)
                  }
                : undefined
            }
          >
            {isEdited ? (
              <CellEditor
                field={field}
                text={textOfCell(clip, field)}
                onEnd={(value, then) =>
                  onAction('endEdit', index, clip.id, field, value === textOfCell(clip, field) ? null : value, then)
                }
              />
            ) : (
              cellOf(clip, field, underWay)
            )}
          </td>
        )
      })}
    </tr>
  )
})
