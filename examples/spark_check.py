# Checks lines of HAR entries on Spark: spark_check.py PATH [OPTION OF MERGE]...
import subprocess
import sys

from pyspark.sql import SparkSession


def ledger(number, lines):
    check = ["fclerk", "check", "-", "--from", "jsonl", "--ledger", "--name", f"part-{number:05}"]
    text = "".join(line + "\n" for line in lines)
    yield subprocess.run(check, input=text, text=True, stdout=subprocess.PIPE, check=True).stdout


lines = SparkSession.builder.getOrCreate().read.text(sys.argv[1]).rdd.map(lambda row: row.value)
ledgers = lines.mapPartitionsWithIndex(ledger).collect()
merge = ["fclerk", "merge", "-", "--expect", str(len(ledgers)), *sys.argv[2:]]
sys.exit(subprocess.run(merge, input="".join(ledgers), text=True).returncode)
