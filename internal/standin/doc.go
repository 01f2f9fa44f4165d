// Package standin is a small server that speaks the Tabular Data Stream protocol of SQL Server, version
// 7.4, after its published specification ([MS-TDS]), and answers queries on the catalogue views from
// fixtures: the views are tables with their documented columns in SQLite databases in memory, one a
// database, attached as sys. It is what the demo and the tests put in the place of a server that cannot
// be had; it knows as much of the protocol as a survey needs: pre-login, login, batches, sp_executesql,
// errors, attention.
package standin
