-- A tick on the creeper card is for a piece of metal as it was cut: what was ticked before says nothing of its shape, and
-- is shown as cut from an older drawing.
ALTER TABLE card_marks ADD COLUMN shape text NOT NULL DEFAULT ''
    CONSTRAINT card_shape_length CHECK (char_length(shape) <= 64);

-- What the shop floor needs of a job, beside what it was worked out from: `made_from` names the revisions, the rules and
-- the program that made it. A row whose `made_from` is another one is old.
CREATE TABLE job_summaries (
    job_id integer PRIMARY KEY REFERENCES jobs ON DELETE CASCADE,
    made_from text NOT NULL CONSTRAINT summary_made_from_length CHECK (char_length(made_from) <= 200),
    step text NOT NULL CONSTRAINT summary_step_length CHECK (char_length(step) <= 40),
    words text NOT NULL CONSTRAINT summary_words_length CHECK (char_length(words) <= 400),
    figure text NOT NULL DEFAULT '' CONSTRAINT summary_figure_length CHECK (char_length(figure) <= 80)
);

-- put away: neither in hand nor handed over; deleted: out of every list, and brought back by undo.
ALTER TABLE jobs DROP CONSTRAINT job_state_known,
    ADD CONSTRAINT job_state_known CHECK (state IN ('open', 'done', 'put away', 'deleted'));
