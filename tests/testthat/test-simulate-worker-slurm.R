# A real Slurm of two nodes on this machine; tests/slurm starts and stops it.
slurm_folder <- function() {
  scripts <- file.path(source_folder(), "tests", "slurm")
  there <- nzchar(Sys.which(c("slurmctld", "slurmd", "sbatch", "munged")))
  skip_if(!all(there), "Slurm is not installed (Debian: slurmctld slurmd slurm-client munge)")
  skip_if(Sys.info()[["effective_user"]] != "root", "Slurm's daemons need root here")
  folder <- tempfile("slurm-")
  withr::local_envvar(USER = "root", .local_envir = parent.frame())
  started <- system2("sh", c(file.path(scripts, "start.sh"), folder), stdout = FALSE, stderr = FALSE)
  withr::defer(system2("sh", c(file.path(scripts, "stop.sh"), folder)), envir = parent.frame())
  if (started != 0) stop("Slurm did not start: ", paste(list.files(folder), collapse = ", "))
  withr::local_envvar(SLURM_CONF = file.path(folder, "slurm.conf"), R_LIBS = paste(.libPaths(), collapse = ":"),
    .local_envir = parent.frame())
  folder
}

test_that("workers that a scheduler starts give the same result, also when one is cancelled in mid-run", {
  skip_on_cran()
  slurm_folder()
  jobs <- function() system2("squeue", c("-h", "-t", "RUNNING", "-o", "%i"), stdout = TRUE)
  mirai::daemons(2, url = mirai::local_url(tcp = TRUE), remote = mirai::cluster_config("sbatch",
    options = paste0("#SBATCH --output=/dev/null\n#SBATCH --mem=500"), rscript = file.path(R.home("bin"), "Rscript")))
  withr::defer(mirai::daemons(0))
  until <- Sys.time() + 60
  while (mirai::status()$connections < 2 && Sys.time() < until) Sys.sleep(0.1)
  expect_identical(mirai::status()$connections, 2L)
  expect_length(jobs(), 2)
  model <- function(a) { Sys.sleep(0.01); if (a > 12) stop("hot"); list(y = a + rnorm(1), where = nchar(Sys.getenv("SLURM_JOB_ID")) > 0) }
  s <- study("On a cluster") |> add_inputs(a = law_normal(10, 1), b = law_uniform(0, 1)) |> add_correlation(a, b, 0.5) |>
    add_model(model) |> add_outputs(z = y + b)
  res <- quietly(s, 300, 3)
  expect_true(all(res$where[res$a <= 12]))
  here <- quietly(s, 300, 3, workers = 1)
  expect_identical(res$z, here$z)
  expect_identical(failures(res), failures(here))
  dir <- file.path(withr::local_tempdir(), "r")
  cancelled <- FALSE
  cancel <- function(done, all) {
    if (cancelled || done < 100) return()
    cancelled <<- TRUE
    system2("scancel", jobs()[1])
  }
  again <- simulate_into(s, dir, 300, 3, progress = cancel)
  expect_true(cancelled)
  expect_identical(again$z, here$z)
  expect_identical(failures(again), failures(here))
  expect_lte(length(jobs()), 1)
  mirai::daemons(0)
  # and from the command line, by a cluster file
  file <- harmless_file(dirname(dir))
  cluster <- file.path(dirname(dir), "cluster.yml")
  writeLines(c("workers: 2", "command: sbatch", "address: \"tcp://127.0.0.1:0\"",
    "options: [\"#SBATCH --output=/dev/null\", \"#SBATCH --mem=500\"]", "wait: 90"), cluster)
  done <- call_cli("run", file, "--out", file.path(dirname(dir), "c"), "--run-programs", "--no-plots", "--cluster", cluster)
  expect_identical(done$code, 0L, info = paste(done$said, collapse = "\n"))
  expect_match(done$said, "2 workers asked for by sbatch", all = FALSE)
  expect_identical(read_result(file.path(dirname(dir), "c"))$y, quietly(allow_programs(read_study(file)), 20)$y)
  writeLines(c("workers: 2", "comand: sbatch"), cluster)
  expect_match(call_cli("run", file, "--out", file.path(dirname(dir), "d"), "--cluster", cluster)$said, "comand", all = FALSE)
})
