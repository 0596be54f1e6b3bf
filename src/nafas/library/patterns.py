"""The shipped patterns: the families practitioners use, with their usual counts and rounds (common practice, no source).

(name, purpose, notation, what it is and when it is used). Cautions follow from what each one asks of the breath.
"""

ARMS = 'in 4 "reach" long "breathe in, arms up", out 4 "lower" long "breathe out, arms down" x6 say long'

PATTERNS: tuple[tuple[str, str, str, str], ...] = (
    ("Equal breath", "steady", "4-4 x8", "In and out alike. The plainest way to settle."),
    ("Equal breath, growing", "steady", "3-3 x4 step 1 to 6 ease 20s", "Four rounds a step, one count more each step."),
    ("Equal with a top hold", "steady", "5-5-5 x8", "Four rounds a minute at a second a count."),
    ("Square", "steady", "4-4-4-4 x6", "Four equal sides. Five to ten rounds are usual."),
    ("Square, growing", "steady", "4-4-4-4 x2 step 1 to 8 drop step",
     "Two rounds a step from four to eight; the last hold of each step is left out."),
    ("Long exhale", "unwind", "4-6 x10", "Out half as long again as in."),
    ("Long exhale, one count a round", "unwind", "4-4 x1 step 1 on out to 8", "The exhale grows to twice the inhale."),
    ("Ratio ladder", "unwind", "4-4 x4 ladder 1 3/2 2 ease 20s", "1 : 1, then 1 : 1½, then 1 : 2."),
    ("Hold and long exhale", "unwind", "4-2-8 x6", "A short soft hold before a long way out."),
    ("Four, seven, eight", "sleep", "4-7-8 x4", "A longer hold. Few rounds."),
    ("Slower and slower", "sleep", "4-6 x10 glide to 1.25s", "The same counts, each a little longer than the last."),
    ("Breath in three parts", "steady", "in 2+2+2 (belly, ribs, chest), out 8 x3 @ 1.2s; 6-8 x2; in 2+2+2, out 8 x3",
     "Interrupted inhale, then whole breaths, then again."),
    ("Broken both ways", "steady", "in 1+1+1+1+1+1+1+1, hold 4, out 1+1+1+1+1+1+1+1, hold 4 x3",
     "Small sniffs in and small breaths out, with holds."),
    ("Three regions", "steady", "in 2~2~2 (belly, ribs, chest), out 2~2~2 (chest, ribs, belly) x5 @ 1.35s",
     "One smooth breath named in three places, and back."),
    ("Alternate sides", "steady", "in L 4, out R 4, in R 4, out L 4 x5 @ 1.35s", "Begins and ends on the left."),
    ("Alternate sides with holds", "steady", "in L 4, hold 4, out R 8, in R 4, hold 4, out L 8 x5 @ 1.35s",
     "Begins and ends on the left, with a hold at the top."),
    ("Alternate sides, exhale first", "steady", "out L 4, in L 4, out R 4, in R 4 x4 @ 1.35s; out L 4 x1",
     "Begins with the exhale left, and ends with it."),
    ("One side, both, the other", "steady",
     "in L 4, out L 4 x5 @ 1.35s; in both 4 \"both, in\", out both 4 \"both, out\" x3; in R 4, out R 4 x5; "
     'in both 4 "both, in", out both 4 "both, out" x3; '
     "in L 4, out R 4, in R 4, out L 4 x3",
     "Left five times, both three, right five, both three, then alternating."),
    ("Humming exhale", "unwind", "in 4 nose, out 8 hum x6", "Hum for the whole of the way out."),
    ("Ocean breath", "steady", "in 5 throat, out 5 throat x6 @ 1.15s", "The throat a little narrowed, so that the breath sounds."),
    ("Pursed lips", "unwind", "in 3 nose, out 6 pursed x8", "In through the nose, out as if cooling soup."),
    ("Arms and breath", "wake", ARMS, "The arms follow the breath."),
    ("Rapid exhale, first set", "wake", "rapid 10 @ 30/min every 5 demo 5 @ 10/min rest 45s", "To learn it, slowly."),
    ("Rapid exhale", "wake", "rapid 40 @ 60/min every 10 rest 60s", "A led set at a stroke a second."),
    ("Bellows", "wake", "bellows 40 @ 50/min every 10 arms demo 5 @ 10/min rest 60s", "In and out both active, with the arms."),
    ("Hold after a rapid set", "wake",
     'out 4, in 4, out 4, in 4 to 2/3, hold 30s calls half 10 5 release, out 6 "and out" x1',
     "Out, in, out, in to two thirds, and a comfortable hold."),
    ("Empty hold", "wake", 'in 4, out 6, hold 20s calls half 5 release, in 4 "and in", out 6 x1',
     "A hold on empty, released softly."),
)  # fmt: skip
