ALTER TABLE batches DROP COLUMN wash_agent;
