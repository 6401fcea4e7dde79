-- What the maker says about the supports of a file: recognised by name and shape, its own, or none.
ALTER TABLE sculpts ADD COLUMN supports TEXT NOT NULL DEFAULT 'recognised';
