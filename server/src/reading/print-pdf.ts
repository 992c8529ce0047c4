import { existsSync } from 'node:fs'
import type { Printed, PrintedTable } from '@ennick/core'
import PdfDocument from 'pdfkit'

/** `./ennick start` installs them; the others are in every reader of PDF, and have western letters alone. */
const fonts = {
  code: ['/usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf', 'Courier'],
  text: ['/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf', 'Helvetica'],
  title: ['/usr/share/fonts/truetype/dejavu/DejaVuSans-Bold.ttf', 'Helvetica-Bold'],
} as const
const margin = 34
const size = 7
const rowHeight = 11.5

/**
 * Prints tables on A4, across: a line for each row, the heads again on every page. Cells that are too long for their
 * column end in an ellipsis: the page for the screen has them whole.
 */
export function printPdf(printed: Printed): Promise<Uint8Array> {
  const document = new PdfDocument({ size: 'A4', layout: 'landscape', margin, info: { Title: printed.title } })
  for (const [name, [path, standard]] of Object.entries(fonts))
    document.registerFont(name, existsSync(path) ? path : standard)
  const chunks: Buffer[] = []
  const done = new Promise<Uint8Array>((resolve, reject) => {
    document.on('data', (chunk: Buffer) => chunks.push(chunk))
    document.on('end', () => resolve(Buffer.concat(chunks)))
    document.on('error', reject)
  })
  const paper = new Paper(document)
  paper.line([{ text: printed.title, font: 'title', size: 14, width: Number.POSITIVE_INFINITY }], 22)
  paper.line([{ text: printed.about, font: 'text', size, width: Number.POSITIVE_INFINITY }], 18)
  for (const table of printed.tables) paper.table(table)
  document.end()
  return done
}

interface Cell {
  readonly text: string
  readonly font: keyof typeof fonts
  readonly size: number
  readonly width: number
}

class Paper {
  readonly #document: PDFKit.PDFDocument
  readonly #widths = new Map<string, number>()
  #top = margin

  constructor(document: PDFKit.PDFDocument) {
    this.#document = document
  }

  table({ title, columns, rows }: PrintedTable): void {
    const whole = columns.reduce((sum, { share }) => sum + share, 0)
    const widths = columns.map(({ share }) => (share / whole) * (this.#document.page.width - 2 * margin))
    const heads = columns.map(({ name }, index) => ({
      ...{ text: name, font: 'title' as const, size, width: widths[index] as number },
    }))
    if (this.#isFull(4)) this.#turn()
    this.line([{ text: title, font: 'title', size: 9, width: Number.POSITIVE_INFINITY }], 15)
    this.line(heads)
    for (const row of rows) {
      if (this.#isFull(1)) {
        this.#turn()
        this.line(heads)
      }
      this.line(
        row.map((text, index) => ({
          ...{ text, font: columns[index]?.isCode ? 'code' : 'text', size, width: widths[index] as number },
        })),
      )
    }
    this.#top += 8
  }

  /** Writes cells beside each other, and goes on below. */
  line(cells: readonly Cell[], height = rowHeight): void {
    let left = margin
    for (const { text, font, size, width } of cells) {
      this.#document
        .font(font)
        .fontSize(size)
        .text(this.#cut(text, font, size, width - 4), left, this.#top, { lineBreak: false })
      left += width
    }
    this.#top += height
  }

  #isFull(lines: number): boolean {
    return this.#top + lines * rowHeight > this.#document.page.height - margin
  }

  #turn(): void {
    this.#document.addPage()
    this.#top = margin
  }

  /** As much of a text as fits; letters are measured once each. */
  #cut(text: string, font: keyof typeof fonts, size: number, width: number): string {
    let wide = 0
    let kept = ''
    for (const letter of text) {
      const key = `${font} ${size} ${letter}`
      let own = this.#widths.get(key)
      if (own === undefined) {
        own = this.#document.font(font).fontSize(size).widthOfString(letter)
        this.#widths.set(key, own)
      }
      wide += own
      if (wide > width) return `${kept.slice(0, -1)}…`
      kept += letter
    }
    return kept
  }
}
