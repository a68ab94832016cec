"""Reports: a document of sections, written as one HTML page or as a PDF of the same template."""
