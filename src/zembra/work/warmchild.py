"""The child's side of WarmChildren. It may die at any point; the parent sees the pipe close."""

from __future__ import annotations

import importlib
import os
import pickle
import signal
import sys
import traceback

from zembra.core.errors import Refusal
from zembra.work.platform import end_after, end_with_parent
from zembra.work.processes import GRACE
from zembra.work.warm import DONE, FAULT, RAISED, read_message, write_message


def main(lifeline: str, *preload: str) -> None:
    if hasattr(signal, "SIGINT"):
        signal.signal(signal.SIGINT, signal.SIG_IGN)  # who is asked to stop is the parent
    end_with_parent(int(lifeline))
    # printed output is no response
    answers = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    for module in preload:
        importlib.import_module(module)
    while True:
        try:
            question = read_message(sys.stdin.buffer)
        except EOFError:
            os._exit(0)  # at once: what was written in another language may crash when it is closed in order
        write_message(answers, _answer(question))


def _answer(question: bytes) -> bytes:
    try:
        function, args, seconds = pickle.loads(question)
        end_after(seconds + GRACE if seconds else 0)
        answer = pickle.dumps((DONE, function(*args)))
    except (Refusal, OSError) as error:
        answer = pickle.dumps((RAISED, error))
    except BaseException as error:
        answer = pickle.dumps((FAULT, (f"{type(error).__name__}: {error}"[:200], traceback.format_exc())))
    end_after(0)
    return answer


if __name__ == "__main__":
    main(*sys.argv[1:])
