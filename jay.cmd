@echo off
rem Jay Lantern's one door on Windows. It looks for a Python; what it does stands in jay.py.
setlocal
set "HERE=%~dp0"
set "PYTHON=%HERE%.venv\Scripts\python.exe"
if exist "%PYTHON%" goto found
for %%v in (3.13 3.12 3.11) do (
    py -%%v -c "" >nul 2>nul
    if not errorlevel 1 (
        py -%%v "%HERE%jay.py" %*
        goto end
    )
)
set "PYTHON=python"
python -c "import sys; sys.exit(not (3, 11) <= sys.version_info[:2] <= (3, 13))" >nul 2>nul
if not errorlevel 1 goto found
echo jay: Python 3.11 to 3.13 of 64 bit is needed; get it from python.org or by: winget install Python.Python.3.13 1>&2
exit /b 2
:found
"%PYTHON%" "%HERE%jay.py" %*
:end
exit /b %errorlevel%
