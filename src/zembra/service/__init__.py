"""The application without HTTP: read files, open and run studies, judge, hand over."""
