"""The web application: one app a room of the house.

    accounts   people, programmes, roles
    waters     waters and their points
    library    methods in use, lots
    visits     going somewhere: go or no-go, context, sample
    bench      runs and their events; the page that plays a sheet
    sync       the endpoint that takes events
    log        results, their evaluations, the log and its CSV
    ui         the design system

Each app: models, queries, services (what changes data), views (thin), templates, static. Apps talk
through each other's services and queries. Arrows: views -> services -> kessa_core.
"""
