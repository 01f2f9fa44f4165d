-- title: The columns of a table, server by server
-- about: what the columns of all tables of one name are
-- parameter: table text, its name
SELECT server, name, type, nullable, comment
FROM columns
WHERE table_name = :table
ORDER BY server, position;
