"""Following a body on two legs: its landmarks in every drawing, near and far told apart.

In the order in which it is done: the background without the figure (``behind``); what each drawing shows of it
(``ink``); the body (``body``); poses that each drawing's ink allows (``poses``); the most continuous run of them over
the clip (``run``); which side is which by tone (``tones``); each limb set on the middle line of its own stroke
(``settle``, ``limbs``) and the feet told from their outline (``feet``). ``through`` does all of it.
"""
