-- title: Crowded tables
-- about: tables with many columns, the widest first
-- advice: What has many columns often holds two things; look whether some of them belong together.
-- parameter: least number = 6, columns at least
-- column: bytes as bytes
-- leads to: columns_of table=name
-- chart: bar name, columns
SELECT address, name, columns, rows, bytes
FROM objects
WHERE kind = 'table' AND columns >= :least
ORDER BY columns DESC, address;
