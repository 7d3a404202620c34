"""Following a body on two legs: its landmarks in every drawing, near and far told apart.

In the order in which it is done: the background without the figure (``behind``); what each drawing shows of it
(``ink``); the body (``body``), and what a person placed (``placed``); proportions to begin with (``guess``); poses that
each drawing's ink allows (``poses``); the most continuous run of them over the clip (``run``); which side is which by
tone (``tones``); each limb set on the middle line of its own stroke (``settle``, ``limbs``), the feet told from their
outline (``feet``), hip and ankle from how limbs turn about them (``joints``), each hip where its limbs lead (``hips``).
Of whole figures the trunk comes first (``head``, ``trunk``), and arms last (``arms``, ``over_trunk``, ``hands``).
``through`` does all of it.
"""
