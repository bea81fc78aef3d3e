/** The process that reads one picture: `node apartPicture.mjs ORDER`. */
import { answerApart, type PictureOrder } from './apartPicture.server'

const order = JSON.parse(process.argv[2]!) as PictureOrder // from our own web server alone
await answerApart(order, (bytes) => void process.stdout.write(bytes))
