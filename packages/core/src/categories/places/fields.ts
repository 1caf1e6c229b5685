import { z } from 'zod'
import { moment, number, whole } from '../field-values.js'

export const placeFields = z.strictObject({
  latitude: number,
  longitude: number,
  firstAt: moment,
  lastAt: moment,
  pictures: whole,
})
