EXEC sys.sp_dropserver @server = N'MAINLAND', @droplogins = 'droplogins'
GO

DROP DATABASE [beacons]
GO
