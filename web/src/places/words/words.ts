// The words of this program, each in one sentence; every screen and the manual use them so.

export interface Word {
  word: string
  means: string
}

export const WORDS: readonly { about: string; words: readonly Word[] }[] = [
  {
    about: 'What is published and what is tested',
    words: [
      { word: 'Line', means: 'All series and models with what they give and what is claimed of them.' },
      { word: 'Series', means: 'Models that are sold together.' },
      { word: 'Model', means: 'A product as it is sold: its channel groups, rated loads, supply and claims.' },
      { word: 'Channel group', means: 'Channels of a model that are alike: “main”, “bass”.' },
      { word: 'Bridged pair', means: 'Two neighbouring channels that drive one load between them.' },
      { word: 'Unit', means: 'One piece of a model, known by its serial number.' },
      { word: 'Claim', means: 'A power figure in a document, with the conditions that the document states.' },
      { word: 'Document', means: 'Where a claim stands: a manual, a carton, a web page.' },
    ],
  },
  {
    about: 'Work at the bench',
    words: [
      { word: 'Bench', means: 'A supply, a source, loads and a recorder that one unit is tested with.' },
      { word: 'Campaign', means: 'The runs of one unit that were planned together, under one method.' },
      { word: 'Run', means: 'One mode at one load, wiring, tone and supply.' },
      { word: 'Attempt', means: 'One try at a run; all are kept, the last valid one stands unless another is chosen.' },
      { word: 'Wiring', means: 'Which load hangs at which channel at the same time.' },
      { word: 'Before power', means: 'What is seen to before a wiring is powered, or left out for a reason.' },
      { word: 'Off', means: 'Mutes the source and switches the amplifier off, at once, from anywhere.' },
      { word: 'Holder', means: 'The person who works at a bench; others watch and can ask for it.' },
    ],
  },
  {
    about: 'Modes',
    words: [
      { word: 'Certified', means: 'A steady tone, raised to where THD+N reaches its limit on the worst channel.' },
      { word: 'Uncertified', means: 'A steady tone, raised on past that limit to visible clipping.' },
      { word: 'Proof', means: 'A steady tone at the claimed watts and 2 % more, held: quick, at each edge of a band.' },
      { word: 'Burst', means: 'Short tones with rests, raised to the onset of clipping, and on to the largest found.' },
      { word: 'Exploratory', means: 'A run below the lowest rated load: shown, never evidence.' },
    ],
  },
  {
    about: 'Readings',
    words: [
      {
        word: 'Reading',
        means: 'What an attempt gave of each channel: watts, volts, THD+N, and the supply beside it.',
      },
      { word: 'A reading by hand', means: 'A reading that a person took from a meter and wrote down.' },
      { word: 'A sheet', means: 'Readings by hand of one unit and one day, its loads by the modes, as one campaign.' },
      { word: 'A recording', means: 'A file of waveforms from another recorder, measured here.' },
      { word: 'Earlier results', means: 'A table of readings from before, taken in as a whole.' },
      { word: 'Second instrument', means: 'What another meter read on the same terminals at the same moment.' },
      { word: 'Weakest', means: 'The channel with the least power: the one that a claim is judged by.' },
      { word: 'THD+N', means: 'Distortion and noise, as a share of the whole signal within the band.' },
      { word: 'Level bracket', means: 'The last step between a level within the limit and one over it.' },
      { word: 'Headroom', means: 'How many dB a burst reaches over the certified power.' },
      { word: '± U', means: 'Expanded uncertainty: the value lies within it at 95 %.' },
      {
        word: 'Eₙ',
        means: 'The difference of two instruments over their uncertainties together; beyond ±1 they disagree.',
      },
    ],
  },
  {
    about: 'Judging',
    words: [
      { word: 'Evidence', means: 'Readings that may back a claim.' },
      { word: 'Check', means: 'A question that is put to every reading.' },
      { word: 'Finding', means: 'What a check found: a note, a doubt, or that the reading is invalid.' },
      { word: 'Set aside', means: 'To overrule a finding, by name and for a reason; it stays readable.' },
      { word: 'Verdict', means: 'What the evidence says of a claim.' },
      {
        word: 'Guarded rule',
        means: 'Backed where the reading less U reaches the claim, short where it with U does not.',
      },
      { word: 'Simple rule', means: 'Backed where the reading reaches the claim; U is left aside.' },
      { word: 'Reach', means: 'What a unit or model gives at each load: certified, on to uncertified, and burst.' },
      { word: 'Estimated', means: 'Worked out for another voltage from a fit; never evidence.' },
    ],
  },
  {
    about: 'Things',
    words: [
      { word: 'Gear', means: 'Instruments with their limits and calibration, load boxes, supplies.' },
      { word: 'Method', means: 'Every number of the procedure; it is stored with each campaign.' },
      { word: 'Desk', means: 'Calculators on the same arithmetic, load networks, test tones.' },
    ],
  },
]
