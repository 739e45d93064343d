import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'

/** The words of a PDF, page by page, and the size of its first page in mm. */
export async function pdfText(data: Uint8Array): Promise<{ pages: string[]; widthMm: number; heightMm: number }> {
  const document = await getDocument({ data, useSystemFonts: false, disableFontFace: true, verbosity: 0 }).promise
  const pages: string[] = []
  let size = [0, 0]
  for (let n = 1; n <= document.numPages; n++) {
    const page = await document.getPage(n)
    const view = page.getViewport({ scale: 1 })
    if (n === 1) size = [view.width, view.height]
    const { items } = await page.getTextContent()
    pages.push(
      items
        .map((i) => ('str' in i ? i.str : ''))
        .join(' ')
        .replace(/\s+/g, ' '),
    )
  }
  await document.destroy()
  const mm = (points = 0) => (points / 72) * 25.4
  return { pages, widthMm: mm(size[0]), heightMm: mm(size[1]) }
}
