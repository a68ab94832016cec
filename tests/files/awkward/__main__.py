"""`python -m tests.files.awkward`: writes all awkward files anew."""

import shutil

from tests.files.awkward import FOLDER, array_files, folder_files, text_files, workbook_files

shutil.rmtree(FOLDER, ignore_errors=True)
FOLDER.mkdir()
for name, text in text_files.FILES.items():
    (FOLDER / name).write_bytes(text if isinstance(text, bytes) else text.encode())
for made in (array_files, workbook_files, folder_files):
    for name, write in made.FILES.items():
        write(FOLDER / name)
