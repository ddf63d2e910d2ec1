"""Pictures of other making, scored where they lie: folders with ``truth.json``.

Each item has ``family``, ``kind``, ``difficulty``, ``images``, ``given`` and ``truth``. They are for learning what
fails, not for fitting: ``python -m tests.bench.practice FOLDER...``, or WAHRHEIT_PRACTICE=FOLDER with ``make bench``.
"""
