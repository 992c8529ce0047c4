import { namedDataFolder } from '../config.ts'
import { stopRunning } from './lock.ts'
import { readWords } from './words.ts'

readWords({}, './ennick stop')
console.log((await stopRunning(namedDataFolder())) ? 'Ennick has stopped.' : 'Ennick is not running.')
