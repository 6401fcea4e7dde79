-- Keys of forms that were carried out: one that is sent again, after the server was ended, is not carried out twice.
CREATE TABLE form_keys (
    form_key TEXT NOT NULL PRIMARY KEY,
    spent_at_ms INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
