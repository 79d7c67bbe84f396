"""The Django project, one app per area.

    accounts   people, programmes, roles, devices, limits on tries
    records    the audit: sealed entries, and whether they hold
    waters     waters and their points
    library    methods in use, lots
    visits     going somewhere: go or no-go, context, sample
    bench      runs and their events; the page that plays a sheet
    sync       the endpoints that take events, and the capability of a device
    log        results, their evaluations, review, corrections, the log and its CSV
    search     finding things by a few letters
    ui         the design system

Each app: models, queries, services (what changes data), views (thin), templates, static. Apps talk
through each other's services and queries. Arrows: views -> services -> kessa_core.
"""
