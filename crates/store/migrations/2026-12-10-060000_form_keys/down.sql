DROP TABLE form_keys;
