DROP TRIGGER [no_drops] ON DATABASE
GO

ALTER TABLE [nav].[lamp] DROP CONSTRAINT [FK_lamp_code]
GO

DROP TRIGGER [nav].[tall_insert]
GO

DROP TRIGGER [nav].[beacon_touch]
GO

DROP SYNONYM [dbo].[mainland]
GO

DROP SYNONYM [dbo].[lights]
GO

DROP VIEW [nav].[tall_beacon]
GO

DROP PROCEDURE [nav].[light_lamp]
GO

DROP PROCEDURE [nav].[count_rows]
GO

DROP FUNCTION [nav].[to_feet]
GO

DROP FUNCTION [nav].[lamps_of]
GO

DROP FUNCTION [Night Watch].[log_of]
GO

DROP INDEX [reading_cc] ON [nav].[reading]
GO

DROP INDEX [lit_count_ix] ON [nav].[lit_count]
GO

DROP VIEW [nav].[lit_count]
GO

DROP INDEX [lamp_code] ON [nav].[lamp]
GO

DROP INDEX [beacon_place] ON [nav].[beacon]
GO

DROP INDEX [beacon_papers_path] ON [nav].[beacon]
GO

DROP INDEX [beacon_papers] ON [nav].[beacon]
GO

DROP INDEX [beacon_by_height] ON [nav].[beacon]
GO

DROP INDEX [log_ncc] ON [Night Watch].[keeper log]
GO

ALTER TABLE [nav].[tariff] SET (SYSTEM_VERSIONING = OFF)
GO
DROP TABLE [nav].[tariff]
GO

DROP TABLE [nav].[tariff_history]
GO

DROP TABLE [nav].[reading]
GO

DROP TABLE [nav].[lamp]
GO

DROP TABLE [nav].[inspection]
GO

DROP TABLE [nav].[hot_signal]
GO

DROP FULLTEXT INDEX ON [nav].[beacon]
GO

DROP TABLE [dbo].[signal_code]
GO

DROP TABLE [dbo].[heap_note]
GO

ALTER TABLE [Night Watch].[keeper log] DROP CONSTRAINT [FK_log_beacon]
GO

DROP TABLE [Night Watch].[keeper log]
GO

DROP TABLE [nav].[beacon]
GO

DROP SEQUENCE [nav].[ticket]
GO

DROP SEQUENCE [dbo].[plain_numbers]
GO

DROP FULLTEXT CATALOG [words]
GO

DROP PARTITION SCHEME [by_year]
GO

DROP PARTITION FUNCTION [years]
GO

ALTER DATABASE CURRENT REMOVE FILE [archive]
GO
ALTER DATABASE CURRENT REMOVE FILEGROUP [ARCHIVE]
GO

DROP TYPE [nav].[beacon_list]
GO

DROP TYPE [nav].[bearing]
GO

DROP SCHEMA [nav]
GO

DROP SCHEMA [Night Watch]
GO

DROP USER [keeper]
GO

DROP ROLE [lamp_crew]
GO
