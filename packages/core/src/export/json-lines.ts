import type { HandoverItem } from './format.js'
import { SingleFileWriter } from './single-file.js'

/** The items of a category with all their fields, one JSON object a line. */
export class JsonLinesWriter extends SingleFileWriter {
  protected readonly ending = 'jsonl'

  protected head(): string {
    return ''
  }

  protected item({ sighting, standing }: HandoverItem): string {
    return `${JSON.stringify({ ...sighting, standing })}\n`
  }

  protected foot(): string {
    return ''
  }
}
