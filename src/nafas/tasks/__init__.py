"""What a producer asks for, one module a task: a frozen request, `run(request, note)`, a result.

A request is checked when it runs; `note(stage, share)` hears of progress and raises Cancelled to stop. A result has its
`lines()` for people, its `figures()` for JSON where it has any, its `exit_code`, and `warnings`: what went wrong that
did not keep the task from being done. The window, the command line and series only make requests and show results.
"""
