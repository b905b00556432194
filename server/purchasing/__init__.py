"""What is bought for a job: orders, quotes, the day that an owner was promised."""
