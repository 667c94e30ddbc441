ALTER TABLE jobs RENAME COLUMN hurts TO complaint;
ALTER TABLE jobs RENAME CONSTRAINT job_hurts_length TO job_complaint_length;
