// What a person says of a recorded file, until it is read.
import type { GroupView, RecordingSetup, RecordingView } from '../../api/types'
import { BLANK_RUN, missingOfRun, runOf } from './outsideRun'
import type { OutsideRun } from './outsideRun'
import { missing, rowsOf } from './recordingRows'
import type { ColumnDraft } from './recordingRows'

export interface RecordingDraft extends OutsideRun {
  instrument: string
  accuracy: number | null
  loaded_volts: number | null
  amps: number | null
  clamp_zeroed: boolean
  controls: boolean
  all_loaded: boolean
  remark: string
  rate: number | null
  /** The file whose columns these are. */
  of: string
  columns: ColumnDraft[]
}

export const BLANK_RECORDING: RecordingDraft = {
  ...BLANK_RUN,
  instrument: '',
  accuracy: 1,
  loaded_volts: null,
  amps: null,
  clamp_zeroed: false,
  controls: false,
  all_loaded: true,
  remark: '',
  rate: null,
  of: '',
  columns: [],
}

/** The first thing that is left to say before it can be read; empty where there is none. */
export function missingOf(said: RecordingDraft, layout: RecordingView['layout']): string {
  if (said.accuracy === null) return 'Say how exact the recorder is, in percent of its volts.'
  return missingOfRun(said) || missing(said.columns, layout, said.rate)
}

export function setupOf(said: RecordingDraft, group: GroupView | undefined): RecordingSetup | null {
  const run = runOf(said, group)
  if (!run || said.accuracy === null) return null
  const time = said.columns.findIndex((c) => c.quantity === 'time')
  return {
    run,
    rows: rowsOf(said.columns),
    instrument: said.instrument,
    accuracy_percent: said.accuracy,
    load_measured: said.load_measured,
    time_column: time < 0 ? null : time,
    sample_rate: time < 0 ? said.rate : null,
    start_volts: said.start_volts,
    loaded_volts: said.loaded_volts,
    amps: said.amps,
    clamp_zeroed: said.amps === null ? null : said.clamp_zeroed,
    controls_in_position: said.controls,
    all_loaded: said.all_loaded,
    remark: said.remark,
    policy: said.policy ?? 'held',
    read_on: said.read_on,
    end: said.end,
  }
}
