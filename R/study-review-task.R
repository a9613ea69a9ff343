# What is looked for in a schedule.

review_tasks <- function(study) NULL
