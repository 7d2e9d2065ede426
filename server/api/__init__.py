"""The REST API. Views are thin: rules live in the core, doing in the apps' own modules."""
