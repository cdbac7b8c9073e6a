# Checks lines of HAR entries on Dask: dask_check.py PATH [OPTION OF MERGE]...
import subprocess
import sys

import dask
import dask.bag


@dask.delayed
def ledger(number, lines):
    check = ["fclerk", "check", "-", "--from", "jsonl", "--ledger", "--name", f"part-{number:05}"]
    return subprocess.run(check, input="".join(lines), text=True, stdout=subprocess.PIPE, check=True).stdout


if __name__ == "__main__":
    parts = dask.bag.read_text(sys.argv[1], blocksize="32MiB").to_delayed()
    ledgers = dask.compute(*[ledger(number, part) for number, part in enumerate(parts)])
    merge = ["fclerk", "merge", "-", "--expect", str(len(ledgers)), *sys.argv[2:]]
    sys.exit(subprocess.run(merge, input="".join(ledgers), text=True).returncode)
