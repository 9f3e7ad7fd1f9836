<!-- Its load always refuses. -->
