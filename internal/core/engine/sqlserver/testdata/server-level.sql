CREATE DATABASE [beacons] COLLATE Latin1_General_CI_AS
GO
ALTER DATABASE [beacons] SET COMPATIBILITY_LEVEL = 150
GO

EXEC sys.sp_addlinkedserver @server = N'MAINLAND', @srvproduct = N'', @provider = N'MSOLEDBSQL', @datasrc = N'mainland.example', @catalog = N'archive'
GO
