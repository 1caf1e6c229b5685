/** `npm start`: the application for real work, without demo data. */
import { launch } from './setup/launch.mjs'
import { main } from './setup/shell.mjs'

await main(() => launch({}))
