# install-steward.ps1 -Name shore -File C:\Entente\steward-shore\steward.yaml
# Runs one steward at start-up as a scheduled task, as the network service, and starts it again when it ends.
# Not tried on Windows by the project's tests: they run on Linux. docs/operating.md says what that means.
param(
    [Parameter(Mandatory)] [ValidatePattern('^[a-z0-9][a-z0-9-]*$')] [string] $Name,
    [Parameter(Mandatory)] [string] $File,
    [string] $Home = 'C:\Entente'
)
$ErrorActionPreference = 'Stop'
if (-not (Test-Path $File)) { throw "There is no steward's file at $File." }
$java = (Get-Command java.exe).Source
$folder = Split-Path -Parent (Resolve-Path $File)
# Keys and password files are for this account alone.
icacls $folder /inheritance:r /grant:r 'NT AUTHORITY\NETWORK SERVICE:(OI)(CI)M' 'BUILTIN\Administrators:(OI)(CI)F' | Out-Null
$arguments = '-XX:+UseSerialGC -Xmx256m -Dfile.encoding=UTF-8 ' +
    "-cp `"$Home\steward\entente-steward-0.1.0.jar;$Home\steward\lib\*`" dev.entente.steward.StewardCommand " +
    "run --file `"$File`""
$action = New-ScheduledTaskAction -Execute $java -Argument $arguments -WorkingDirectory $folder
$trigger = New-ScheduledTaskTrigger -AtStartup
$settings = New-ScheduledTaskSettingsSet -RestartCount 999 -RestartInterval (New-TimeSpan -Minutes 1) `
    -ExecutionTimeLimit ([TimeSpan]::Zero) -StartWhenAvailable
$principal = New-ScheduledTaskPrincipal -UserId 'NT AUTHORITY\NETWORK SERVICE' -LogonType ServiceAccount
Register-ScheduledTask -TaskName "Entente steward $Name" -Action $action -Trigger $trigger -Settings $settings `
    -Principal $principal -Force | Out-Null
Start-ScheduledTask -TaskName "Entente steward $Name"
Write-Output "The steward $Name runs. Look: java -cp ... dev.entente.steward.StewardCommand check --file $File"
