import { all } from './all'
import { asking } from './asking'
import { bench } from './bench'
import { captions } from './captions'
import { capture } from './capture'
import { carry } from './carry'
import { chapters } from './chapters'
import { files } from './files'
import { halls } from './halls'
import { openings } from './openings'
import { sharing } from './sharing'
import { titles } from './titles'

/** The texts that only those meet who teach or coordinate, in English. */
export const staff = {
  ...all,
  ...asking,
  ...bench,
  ...captions,
  ...capture,
  ...carry,
  ...chapters,
  ...files,
  ...halls,
  ...openings,
  ...sharing,
  ...titles,
}
